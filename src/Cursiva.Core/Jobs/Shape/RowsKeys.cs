namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of <c>rows:</c>, for rows that are not a plain array.</summary>
public static class RowsKeys
{
    public static readonly Key RowsAt = new(
        "at",
        KeyKind.Pointers,
        "the object or array that one, keys-as, value-as and inside apply to; or a list of arrays of rows")
    {
        Otherwise = "the whole answer",
        Example = "/depots",
    };
    public static readonly Key One = new("one", KeyKind.Switch, "whether the object at at: is a single row") { Otherwise = "false" };
    public static readonly Key KeysAs = new(
        "keys-as",
        KeyKind.Text,
        "for an object whose values are the rows: the field that takes each row's name")
    { Example = "depot_code" };
    public static readonly Key Inside = new("inside", KeyKind.Pointer, "for an array of batches: the place of the rows in a batch")
    {
        Example = "/items",
    };
    public static readonly Key ValueAs = new(
        "value-as",
        KeyKind.Text,
        "for an array of plain values: the field that takes the value; each value becomes a row")
    { Example = "consignment_id" };
    public static readonly Key PlaceAs = new(
        "place-as",
        KeyKind.Text,
        "for several arrays: the field that takes the last name of the row's place")
    {
        Otherwise = "rows do not say where they were",
        Example = "kind",
    };
    public static readonly Key BatchCarry = new(
        "carry",
        KeyKind.TextMap,
        "fields of a batch to copy into each of its rows: names and JSON Pointers into the batch")
    { Example = "{ day: /date }" };
    public static readonly Key RowsOptional = new(
        "optional",
        KeyKind.Switch,
        "whether a place of several, or of carry:, may be missing on every page")
    { Otherwise = "false: the pull fails", Example = "true" };
    public static readonly Section RowsSection = new("rows", "the rows of an answer, if they are not a plain array",
    [
        RowsAt,
        One,
        KeysAs,
        ValueAs,
        Inside,
        BatchCarry,
        PlaceAs,
        RowsOptional,
    ]);
}

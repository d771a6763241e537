namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys that name JSON Schemas.</summary>
public static class PayloadKeys
{
    public static readonly Key Validate = new(
        "validate",
        KeyKind.Text,
        "a file with a JSON Schema (2020-12); a row that does not match it stops the run, and every mistake is listed with its place")
    {
        Otherwise = "rows are not validated",
        Example = "declaration.schema.json",
    };
    public static readonly Key ValidateBody = new(
        "validate-body",
        KeyKind.Text,
        "a file with a JSON Schema (2020-12) for request bodies; a body that does not match it is not sent and stops the run, and every mistake is listed with its place")
    {
        Otherwise = "bodies are not validated",
        Example = "question.schema.json",
    };
}

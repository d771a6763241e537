using Cursiva.Core.Jobs.Shape;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Jobs;

/// <summary>Reads where an answer has its rows.</summary>
internal sealed class RowsReader(Reading reading)
{
    // So many bits has the note of what was seen.
    private const int MostPlaces = 32;

    private static readonly JsonPointer s_whole = JsonPointer.TryParse("")!;

    public RowSource Read(SectionReader pull, PagingStyle style)
    {
        if (pull.Node(PullKeys.Rows) is not YamlMappingNode)
        {
            if (!pull.Has(PullKeys.Rows) && !pull.Has(PullKeys.Export) && !pull.Has(PullKeys.Download) && !style.IsStream)
                reading.Add(
                    pull.Place,
                    $"{pull.Title} has no 'rows'",
                    $"add rows: {PullKeys.Rows.Gist}, for example rows: {PullKeys.Rows.Example}");
            var places = pull.Pointers(PullKeys.Rows);
            return places.Count > 1
                ? Several(pull, PullKeys.Rows, places, null)
                : new RowSource(RowsForm.Array, places is [var only] ? only : s_whole);
        }

        var rows = pull.Inside(PullKeys.Rows, reading)!;
        var (one, keys, value, inside, at) = (
            rows.Switch(RowsKeys.One) == true,
            rows.Text(RowsKeys.KeysAs),
            rows.Text(RowsKeys.ValueAs),
            rows.Pointer(RowsKeys.Inside),
            rows.Pointers(RowsKeys.RowsAt));
        var kinds = (one ? 1 : 0) + (keys is null ? 0 : 1) + (value is null ? 0 : 1) + (inside is null ? 0 : 1);
        if (kinds > 1)
            reading.Add(rows.Place, $"{rows.Title} has more than one of one, keys-as, value-as and inside", "keep one of them");
        if (kinds > 0 && at.Count > 1)
            reading.Add(
                rows.At(RowsKeys.RowsAt),
                $"{rows.Title} has several places together with one, keys-as, value-as or inside",
                "several places must be plain arrays of rows; keep one place, or only the arrays");
        if (rows.Has(RowsKeys.BatchCarry) && inside is null)
            reading.Add(
                rows.At(RowsKeys.BatchCarry),
                $"{rows.Title} has carry without inside",
                "carry: copies fields of a batch: add inside: with the place of a batch's rows");
        if (rows.Has(RowsKeys.PlaceAs) && at.Count < 2)
            reading.Add(
                rows.At(RowsKeys.PlaceAs),
                $"{rows.Title} has place-as but only one place",
                "it says which of several arrays a row was in: at: [/added, /changed]");
        var source = at.Count > 1 ? Several(rows, RowsKeys.RowsAt, at, rows.Text(RowsKeys.PlaceAs))
            : new RowSource(
                one
                    ? RowsForm.One
                    : keys is not null
                        ? RowsForm.Values
                        : value is not null ? RowsForm.Plain : inside is not null ? RowsForm.Batches : RowsForm.Array,
                at is [var place] ? place : s_whole,
                inside,
                keys,
                value);
        return source with { Carry = rows.PointerMap(RowsKeys.BatchCarry), MayBeMissing = rows.Switch(RowsKeys.RowsOptional) == true };
    }

    private RowSource Several(SectionReader section, Key key, IReadOnlyList<JsonPointer> places, string? placeAs)
    {
        if (places.Count > MostPlaces
            || places.Select(place => place.Text).Distinct().Count() < places.Count
            || places.Any(
                place => places.Any(other => other != place && (place.Text + "/").StartsWith(other.Text + "/", StringComparison.Ordinal))))
            reading.Add(
                section.At(key),
                $"{section.Title} has places that are equal, inside each other, or more than {MostPlaces}",
                "name each array of rows once");
        if (placeAs is not null && places.Select(place => place.Text.Split('/')[^1]).Distinct().Count() < places.Count)
            reading.Add(
                section.At(key),
                $"{section.Title} has places with the same last name, which place-as: would use to tell them apart",
                "remove place-as:, or make a pull for each array");
        var shared = 0;
        while (places.All(place => place.Segments.Count > shared + 1 && place.Segments[shared] == places[0].Segments[shared]))
            shared++;
        return new RowSource(RowsForm.Several, Of(places[0].Segments.Take(shared)))
        {
            Several = [.. places.Select(place => Of(place.Segments.Skip(shared)))],
            PlaceAs = placeAs,
        };
    }

    private static JsonPointer Of(IEnumerable<string> segments) => JsonPointer.ToFields([.. segments]);
}

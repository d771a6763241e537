using System.Text.Json;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Drafts;

/// <summary>Cursors that a page may have, and where the next request may have to send them.</summary>
internal sealed class CursorGuesses(FirstPage page)
{
    private const int MostNames = 6;

    /// <summary>Every guess, the likeliest first.</summary>
    public IEnumerable<PagingGuess> All
    {
        get
        {
            var cursors = page.Members
                .Where(
                    member => PageNames.IsCursor(member.PlainName)
                        && member.Value.ValueKind is JsonValueKind.String or JsonValueKind.Number or JsonValueKind.Object
                        && IsFilled(member.Value))
                .ToList();
            return
            [
                .. cursors.SelectMany(InBody),
                .. cursors.Where(member => member.Value.ValueKind != JsonValueKind.Object).SelectMany(InQuery),
                .. cursors.SelectMany(Several),
                .. InHeader(),
            ];
        }
    }

    /// <summary>The parameter that most likely takes a cursor of some name.</summary>
    public static string Likely(string name) => NamesFor(name).First();

    private static IEnumerable<string> NamesFor(string name)
    {
        var plain = PageMember.Plain(name);
        var stripped = name.StartsWith("next_", StringComparison.OrdinalIgnoreCase) || name.StartsWith(
            "next-", StringComparison.OrdinalIgnoreCase) ? name[5..]
            : plain.StartsWith("next", StringComparison.Ordinal) && name.Length > 4 ? char.ToLowerInvariant(name[4]) + name[5..]
            : name;
        var usual = plain.StartsWith("end", StringComparison.Ordinal) || plain is "next"
            ? new[] { "after", "cursor" }
            : ["cursor", "after"];
        return new[] { stripped, name }
            .Where(own => PageMember.Plain(own) is not ("next" or "endcursor"))
            .Concat(usual)
            .Append(name)
            .Concat(PageNames.CursorParameters)
            .Distinct(StringComparer.Ordinal)
            .Take(
            MostNames);
    }

    private IEnumerable<PagingGuess> InQuery(PageMember member)
    {
        var names = NamesFor(member.Name);
        if (member.Number is not null)
            names = names.Take(3).Concat(["page", "offset", "start", "skip"]).Distinct();
        return names.Select(
            name => new PagingGuess(
                $"cursor: {YamlText.Scalar(member.At.Text)}, parameter: {YamlText.Scalar(name)}",
                $"{member.At.Text} is a cursor, sent as {name}")
            { Without = [name] });
    }

    // A body that was given: the place of the same name in it, or beside the size of a page, or at its top.
    private IEnumerable<PagingGuess> InBody(PageMember member)
    {
        if (page.Body is not { ValueKind: JsonValueKind.Object } body)
            return [];
        var members = PageMember.Of(body, []);
        var objects = members.Where(inside => inside.Value.ValueKind == JsonValueKind.Object)
            .Select(inside => inside.At.Segments)
            .OrderByDescending(
                segments => members.Any(
                    inside => inside.At.Segments.Count == segments.Count + 1
                        && inside.At.Segments.Take(segments.Count).SequenceEqual(segments)
                        && PageNames.SizeParameters.Any(size => PageMember.Plain(size) == inside.PlainName)))
            .Append(
            []);
        var places = members.Where(inside => NamesFor(member.Name).Contains(inside.Name)).Select(inside => inside.At)
            .Concat(
                objects.SelectMany(segments => NamesFor(member.Name).Take(3).Select(name => JsonPointer.ToFields([.. segments, name]))));
        return places.Select(place => place.Text).Distinct().Take(MostNames).Select(
            place => new PagingGuess(
                $"cursor: {YamlText.Scalar(member.At.Text)}, body-at: {YamlText.Scalar(place)}",
                $"{member.At.Text} is a cursor, sent at {place} of the body"));
    }

    // An object of several values, each of which goes back by itself: as parameters, or all but the first as headers.
    private IEnumerable<PagingGuess> Several(PageMember member)
    {
        if (member.Value.ValueKind != JsonValueKind.Object
            || member.Value.EnumerateObject().ToList() is not { Count: > 1 and < 4 } parts
            || !parts.TrueForAll(part => part.Value.ValueKind is JsonValueKind.String or JsonValueKind.Number))
            yield break;
        var places = string.Join(
            ", ", parts.Select(part => YamlText.Scalar(JsonPointer.ToFields([.. member.At.Segments, part.Name]).Text)));
        yield return new PagingGuess(
            $"cursor: [{places}], parameter: [{string.Join(", ", parts.Select(part => YamlText.Scalar(part.Name)))}]",
            $"{member.At.Text} has a cursor of several values");
        yield return new PagingGuess(
            $"cursor: [{places}], parameter: {YamlText.Scalar(parts[0].Name)}, header: [{string.Join(", ", parts.Skip(1).Select(part => YamlText.Scalar("X-" + char.ToUpperInvariant(part.Name[0]) + part.Name[1..])))}]",
            $"{member.At.Text} has a cursor of several values, one sent as a parameter and the others as headers");
    }

    private IEnumerable<PagingGuess> InHeader()
    {
        foreach (var header in page.Headers.Where(header => header.Value.Length > 0 && PageNames.IsCursorHeader(header.Key)))
        {
            var bare = (header.Key.StartsWith("X-", StringComparison.OrdinalIgnoreCase) ? header.Key[2..] : header.Key).Replace(
                "Next-", "", StringComparison.OrdinalIgnoreCase);
            if (long.TryParse(header.Value, System.Globalization.CultureInfo.InvariantCulture, out _))
                yield return new PagingGuess(
                    $"cursor-header: {YamlText.Scalar(header.Key)}, parameter: {YamlText.Scalar(bare.ToLowerInvariant())}",
                    $"the header {header.Key} is a number, sent as {bare.ToLowerInvariant()}")
                {
                    Without = [bare.ToLowerInvariant()],
                };
            foreach (var name in new[] { "X-" + bare, "X-After", header.Key }.Distinct(StringComparer.OrdinalIgnoreCase))
                yield return new PagingGuess(
                    $"cursor-header: {YamlText.Scalar(header.Key)}, header: {YamlText.Scalar(name)}",
                    $"the header {header.Key} is a cursor, sent as the header {name}");
            foreach (var name in new[] { bare.ToLowerInvariant(), "cursor", "after" }.Distinct())
                yield return new PagingGuess(
                    $"cursor-header: {YamlText.Scalar(header.Key)}, parameter: {YamlText.Scalar(name)}",
                    $"the header {header.Key} is a cursor, sent as {name}");
        }
    }

    private static bool IsFilled(JsonElement value) => value.ValueKind switch
    {
        JsonValueKind.String => value.GetString()!.Length > 0,
        JsonValueKind.Object => value.EnumerateObject().Any(),
        _ => true,
    };
}

using System.Globalization;

namespace Cursiva.Core.Tests.Drafts;

/// <summary>A request as an API in memory sees it.</summary>
/// <param name="Told">Headers that its answer gets.</param>
internal sealed record Ask(string Path, IReadOnlyDictionary<string, string> Query, IReadOnlyDictionary<string, string> Headers, string Body, Dictionary<string, string> Told)
{
    public const int All = 95;

    public const int Size = 20;

    /// <summary>A number that a parameter has.</summary>
    public int Number(string parameter, int otherwise) => Query.TryGetValue(parameter, out var text) && int.TryParse(text, CultureInfo.InvariantCulture, out var number) ? number : otherwise;

    /// <summary>Rows from one on, as the inside of an array.</summary>
    /// <param name="first">The first row, from 0.</param>
    public static string Rows(int first, int size = Size) =>
        string.Join(',', Enumerable.Range(first, Math.Max(0, Math.Min(All - first, size))).Select(row => $$"""{"id":{{1000 + row}},"name":"row {{row}}","status":"{{(row % 3 == 0 ? "late" : "done")}}","at":"2026-03-{{1 + (row % 28):D2}}T08:00:00Z","price":{{row}}.50}"""));

    /// <summary>Whether rows follow.</summary>
    public static bool Follows(int first, int size = Size) => first + size < All;
}

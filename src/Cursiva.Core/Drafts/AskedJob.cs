using System.Text;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Drafts;

/// <summary>The job that stands behind a request to an address: an API, and who signs in there.</summary>
public static class AskedJob
{
    /// <summary>The name of the API in it.</summary>
    public const string Api = "api";

    /// <summary>Writes the job's text.</summary>
    /// <param name="rows">Where the answer has its rows, as YAML; empty for the answer itself.</param>
    /// <param name="method">The method of the request.</param>
    /// <param name="body">The JSON body of a POST; null for none.</param>
    public static string Text(AskedAddress address, AskedSignIn signIn, string rows, string method = "GET", string? body = null)
    {
        var text = new StringBuilder($"cursiva: 1\ntitle: {YamlText.Literal(Titled(address.Name))}\n");
        Services(text, address, signIn, []);
        text.Append($"\npulls:\n  {address.Name}:\n    {(method == "POST" ? "post" : "get")}: {YamlText.Scalar(address.Path)}\n");
        if (address.Query.Count > 0)
            text.Append($"    query: {{ {QueryOf(address.Query)} }}\n");
        if (body is not null)
            text.Append($"    body: {JsonText.Literal(body)}\n");
        text.Append($"    rows: {(rows.Length == 0 ? "\"\"" : rows)}\n");
        return text.ToString();
    }

    /// <summary>The value of <c>rows:</c> for an answer; empty where it has no place for rows, or is not JSON.</summary>
    public static string RowsOf(ReadOnlySpan<byte> body) =>
        SampleRows.Parse(body.ToArray()) is { } root && RowsSearch.In(root) is [var likeliest, ..] ? likeliest.Yaml : "";

    /// <summary>Reads the job that stands behind a request.</summary>
    /// <param name="folder">Where relative paths of secret sources start.</param>
    /// <exception cref="JobMistakesException">What was given does not go together.</exception>
    public static Job Read(string text, string folder, DateTimeOffset now) =>
        JobReader.ReadText(text, "the command line", folder, new GivenInputs([], [], _ => null), now);

    /// <summary>Query parameters as the inside of a YAML mapping; one that stands there several times is a list.</summary>
    internal static string QueryOf(IReadOnlyList<KeyValuePair<string, string>> query) =>
        string.Join(
            ", ",
            query.GroupBy(pair => pair.Key).Select(
                same => $"{YamlText.Quoted(same.Key)}: {(same.Count() == 1 ? YamlText.Quoted(Doubled(same.First().Value)) : $"[{string.Join(", ", same.Select(pair => YamlText.Quoted(Doubled(pair.Value))))}]")}"));

    /// <summary>The sections of identity and API.</summary>
    /// <param name="further">Further lines of the API, and why they are there.</param>
    internal static void Services(
        StringBuilder text, AskedAddress address, AskedSignIn signIn, IReadOnlyList<(string Line, string Why)> further)
    {
        if (signIn.SignsIn)
        {
            text.Append($"\nidentities:\n  {AskedSignIn.Identity}:\n");
            foreach (var line in signIn.Lines())
                Line(text, 4, line);
        }

        text.Append($"\napis:\n  {Api}:\n");
        Line(text, 4, ($"base: {YamlText.Literal(address.Base)}", ""));
        if (signIn.SignsIn)
            Line(text, 4, ($"identity: {AskedSignIn.Identity}", ""));
        if (signIn.Headers.Count + signIn.HeaderSources.Count > 0)
            Line(
                text,
                4,
                (
                    $"headers: {{ {string.Join(", ", signIn.Headers.Select(pair => $"{YamlText.Quoted(pair.Key)}: {YamlText.Quoted(Doubled(pair.Value))}").Concat(signIn.HeaderSources.Select(pair => $"{YamlText.Quoted(pair.Key)}: {YamlText.Quoted(pair.Value)}")))} }}",
                    ""));
        if (signIn.Trust is not null)
            Line(text, 4, ($"trust: {YamlText.Scalar(signIn.Trust)}", ""));
        foreach (var line in further)
            Line(text, 4, line);
    }

    /// <summary>A line, and after it why it is there.</summary>
    internal static void Line(StringBuilder text, int indent, (string Line, string Why) line)
    {
        text.Append(' ', indent).Append(line.Line);
        if (line.Why.Length > 0)
            text.Append(' ', Math.Max(2, 44 - indent - line.Line.Length)).Append("# ").Append(YamlText.Comment(line.Why));
        text.Append('\n');
    }

    private static string Doubled(string value) =>
        value.Replace("{", "{{", StringComparison.Ordinal).Replace("}", "}}", StringComparison.Ordinal);

    private static string Titled(string name) => char.ToUpperInvariant(name[0]) + name[1..].Replace('_', ' ');
}

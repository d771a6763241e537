using System.Text;
using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Drafts;

/// <summary>Writes a draft as a job file, with what proved each line after it.</summary>
internal sealed class DraftText(DraftFacts facts, AskedSignIn signIn, string version, DateTimeOffset now)
{
    private const int MostSuggested = 3;

    private readonly IReadOnlyList<DraftedColumn> _columns = ColumnSearch.In(facts.Rows);

    private string Name => facts.Pull.Address.Name;

    /// <summary>The column that tells rows apart; null where none is known to.</summary>
    public DraftedColumn? Key => facts.Rows.Count < 2 ? null : _columns
        .Where(
            column => column.IsUnique
                && column.At.Segments.Count == 1
                && column.Type is ColumnType.Text or ColumnType.Integer
                && PageNames.IsKey(PageMember.Plain(column.Name)))
        .OrderBy(column => PageMember.Plain(column.Name) is "id" or "uuid" or "guid" ? 0 : 1).FirstOrDefault();

    /// <summary>The text; its commands are about JOB.</summary>
    public string Write()
    {
        var text = new StringBuilder();
        text.Append($"# Drafted by Cursiva {version} on {now:yyyy-MM-dd} from {YamlText.Comment(Http.ShownAddress.Of(facts.Pull.Address.Whole))}.\n# Each line gives its evidence. Change what you know better, then run: cursiva check JOB --live, cursiva run JOB\n");
        text.Append($"cursiva: 1\ntitle: {YamlText.Literal(PartTitle(Name))}\n");
        AskedJob.Services(text, facts.Pull.Address, signIn, [.. Limits(), .. Probe()]);
        text.Append("\npulls:\n");
        foreach (var remark in facts.Remarks)
            text.Append($"  # {YamlText.Comment(remark)}\n");
        text.Append($"  {Name}:\n");
        Pull(text);
        Suggestions(text);
        DraftedReport.Append(text, Name, _columns, facts.Rows.Count);
        return text.ToString();
    }

    private IEnumerable<(string, string)> Limits()
    {
        if (facts.Limits is { } limits)
            yield return ($"limits: {{ at-most: {limits}, use: 80% }}", "the answers' rate-limit headers say so");
        else
            yield return (
                "# limits: { at-most: 50 per second }", "no answer showed a limit; if the API's documentation has one, write it here");
    }

    private IEnumerable<(string, string)> Probe()
    {
        if (facts.Pull.Body is null && facts.Pull.Paging is { Path: null, IsStream: false })
            yield return (
                $"probe: {{ get: {YamlText.Scalar(facts.Pull.Path + Query(facts.Pull.Query))} }}",
                "one cheap request, for cursiva check --live");
    }

    private static string Query(IReadOnlyList<KeyValuePair<string, string>> query) =>
        query.Count == 0 || query.Any(pair => pair.Value.AsSpan().ContainsAny('{', '}') || Http.ShownAddress.IsMasked(pair.Key))
            ? ""
            : "?" + string.Join('&', query.Select(pair => $"{Uri.EscapeDataString(pair.Key)}={Uri.EscapeDataString(pair.Value)}"));

    private void Pull(StringBuilder text)
    {
        var pull = facts.Pull with { Address = facts.Pull.Address.Kept };
        foreach (var variable in facts.Pull.Address.Variables)
            text.Append($"    # the address had a secret in it: put it into the variable {variable}, or name another source\n");
        AskedJob.Line(text, 4, (pull.RequestText, pull.Paging.Path is null ? "appended to base" : "the page number is filled in"));
        if (pull.Query.Count > 0)
            AskedJob.Line(text, 4, ($"query: {{ {AskedJob.QueryOf(pull.Query)} }}", facts.SizeWords));
        else if (facts.SizeWords.Length > 0)
            text.Append($"    # {YamlText.Comment(facts.SizeWords)}\n");
        if (pull.Body is not null)
            AskedJob.Line(text, 4, ($"body: {JsonText.Literal(pull.Body)}", "sent as given"));
        if (!pull.Paging.IsStream)
            AskedJob.Line(text, 4, ($"rows: {pull.Rows}", facts.RowsWords));
        if (pull.PagingText.Length > 0)
            AskedJob.Line(text, 4, ($"paging: {pull.PagingText}", (facts.IsProven ? "proven: " : "not proven: ") + facts.PagingWords));
        else
            text.Append($"    # no paging: {YamlText.Comment(facts.PagingWords)}\n");
        if (facts.Ended is { } ended)
            text.Append(
                $"    # the complete listing was seen: {Count(facts.Rows.Count, "row")} on {Count(facts.Pages, "page")}, and {YamlText.Comment(ended)}\n");
        if (facts.Changes is { } changes)
            text.Append(
                $"    # its last page has {YamlText.Comment(changes)}: with changes: {YamlText.Comment(changes)} in paging, later runs fetch only what has changed\n");
        if (Key is { } key)
            AskedJob.Line(text, 4, ($"key: [{YamlText.Scalar(key.At.Text)}]", $"different in all {facts.Rows.Count:N0} rows seen"));
        Columns(text);
    }

    private void Columns(StringBuilder text)
    {
        if (_columns.Count == 0)
        {
            text.Append(
                facts.Rows.Count == 0
                    ? "    # no row was seen, so the first run derives the columns\n"
                    : "    # each run derives the columns\n");
            return;
        }

        text.Append($"    # found in {Count(facts.Rows.Count, "row")}; without columns: each run uses whatever members its rows have\n    columns:\n");
        foreach (var column in _columns)
            AskedJob.Line(text, 6, (column.Yaml, column.Words));
    }

    // One level further, for somebody to decide: a member that is an address, or an id that a path beside takes.
    private void Suggestions(StringBuilder text)
    {
        var suggested =
            _columns.Where(
                column => column.Example is not null
                    && column.At.Segments.Count == 1
                    && column.Name.All(c => char.IsAsciiLetterOrDigit(c) || c == '_')).Select(
                        Suggestion).OfType<(string Name, string Request, string Proof)>().DistinctBy(suggestion => suggestion.Name).Take(
            MostSuggested);
        foreach (var (name, request, proof) in suggested)
            text.Append(
                $"  # Perhaps, for each row; try it with: {YamlText.Comment(proof)}\n  # {name}:\n  #   per: {Name}\n  #   {YamlText.Comment(request)}\n  #   rows: {{ one: true }}\n");
    }

    private (string Name, string Request, string Proof)? Suggestion(DraftedColumn column)
    {
        var example = column.Example!;
        if (Http.ShownAddress.InText(example) != example)
            return null;
        var host = facts.Pull.Address.Whole.GetLeftPart(UriPartial.Authority);
        if (example.StartsWith(host + "/", StringComparison.OrdinalIgnoreCase))
            return (
                $"{Name}_{YamlText.Name(column.Name)}",
                $"link: \"{{{Name}.{column.Name}}}\"",
                $"cursiva call JOB {AskedJob.Api} {ShellWord.Of(example)}");
        if (column.Name.Length < 4
            || !column.Name.EndsWith("id", StringComparison.OrdinalIgnoreCase)
            || example.Any(c => !char.IsLetterOrDigit(c) && c is not ('-' or '_' or '.')))
            return null;
        var stem = column.Name[..^2].TrimEnd('_');
        if (stem.Length < 2 || (column.Name[^2] == 'i' && !column.Name.EndsWith("_id", StringComparison.Ordinal)))
            return null;
        var several = YamlText.Name(stem).TrimEnd('s') + "s";
        return (
            several == Name ? several + "_of" : several,
            $"get: /{several}/{{{Name}.{column.Name}}}",
            $"cursiva call JOB {AskedJob.Api} /{several}/{example}");
    }

    private static string PartTitle(string name) => char.ToUpperInvariant(name[0]) + name[1..].Replace('_', ' ');

    private static string Count(int count, string noun) => $"{count:N0} {noun}{(count == 1 ? "" : "s")}";
}

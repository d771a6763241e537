using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>
/// One HTML file that needs nothing else and asks nobody anything: its content security policy forbids every request, and every
/// script but its own.
/// </summary>
internal sealed class HtmlPageWriter : IReportWriter
{
    /// <summary>What it writes.</summary>
    public static IReadOnlyList<WrittenFormat> Declared { get; } =
    [
        new(target => new HtmlPageWriter(target.Stream, target.Report, target.Context))
        {
            Suffix = ".html",
            Holds = FormatHolds.Everything,
            MayBePacked = true,
        },
    ];

    private readonly BufferedOutput _output;
    private readonly ReportContext _context;
    private readonly string _script;
    private PartHead? _head;
    private HtmlPageTable? _table;
    private ChartRows? _chart;
    private readonly ShownValue _shown;
    private string? _figure;
    private HtmlPageGroup _group;
    private int _parts;

    public HtmlPageWriter(Stream stream, Report report, ReportContext context)
    {
        _output = new BufferedOutput(stream);
        _context = context;
        _shown = new ShownValue(context.Zone);
        _script = PageStyle.Script;
        var hash = Convert.ToBase64String(SHA256.HashData(Encoding.UTF8.GetBytes(_script)));
        Html($"""
            <!doctype html>
            <html lang="en">
            <head>
            <meta charset="utf-8">
            <meta name="viewport" content="width=device-width, initial-scale=1">
            <meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; script-src 'sha256-{hash}'">
            <meta name="generator" content="Cursiva {HtmlText.Escape(context.Version)}">
            <title>{HtmlText.Escape(report.Title)}</title>
            <style>
            {PageStyle.Style}</style>
            </head>
            <body>
            <main>
            <header><h1>{HtmlText.Escape(report.Title)}</h1><p>{HtmlText.Escape(ReportWords.MadeFrom(context))}</p></header>

            """);
        var warnings = ReportWords.Warnings(context).ToList();
        if (warnings.Count > 0)
            Html($"<div class=\"notes\" role=\"note\">{string.Concat(warnings.Select(warning => $"<p><b>Note</b> {HtmlText.Escape(warning)}</p>"))}</div>\n");
    }

    public void Begin(PartHead head)
    {
        (_head, _figure, _table, _chart) = (head, null, null, null);
        var id = $"part{++_parts}";
        Group(head.Part.Kind == PartKind.Figure ? HtmlPageGroup.Figures : head.Part.IsChart ? HtmlPageGroup.Charts : HtmlPageGroup.None);

        var title = $"<h2>{HtmlText.Escape(head.Part.Title)}</h2>";
        if (head.Part.Kind == PartKind.Table)
            _table = new HtmlPageTable(_output, head, id, title, _shown);
        else if (head.Part.IsChart)
            _chart = new ChartRows(head, _shown);
        else if (head.Part.Kind == PartKind.Text)
            Html($"<section>{title}{string.Concat(head.Words.Select(words => $"<p>{HtmlText.Escape(words)}</p>"))}</section>\n");
    }

    public void Row(TextRows rows)
    {
        _table?.Row(rows);
        _chart?.Add(rows);
        if (_group == HtmlPageGroup.Figures)
            _figure = rows.IsNull(0) ? null : _shown.Of(rows.Value(0), _head!.Columns[0].Form);
    }

    public void EndPart()
    {
        _table?.End();
        _table?.Dispose();
        if (_group == HtmlPageGroup.Figures)
            Figure();
        else if (_chart is not null)
            Chart(_chart);
    }

    public void End()
    {
        Group(HtmlPageGroup.None);
        Html($"<footer><p>Made by Cursiva {HtmlText.Escape(_context.Version)}. This page is self-contained: it loads nothing and sends nothing.</p></footer>\n</main>\n<script>{_script}</script>\n</body>\n</html>\n");
        _output.Flush();
    }

    public void Dispose()
    {
        // The stream is not ours.
    }

    private void Figure()
    {
        var part = _head!.Part;
        var change = ReportWords.Change(_figure, _head.Before, _context);
        var unit = part.Unit is { } counted ? $" <span class=\"unit\">{HtmlText.Escape(counted)}</span>" : "";
        Html($"<div class=\"figure\"><dt>{HtmlText.Escape(part.Title)}</dt><dd class=\"value\">{HtmlText.Escape(_head.Columns[0].IsNumber ? ReportWords.Figure(_figure) : _figure ?? "none")}{unit}</dd>{(change.Length > 0 ? $"<dd class=\"change\">{HtmlText.Escape(change)}</dd>" : "")}</div>\n");
    }

    private void Chart(ChartRows rows)
    {
        var data = rows.Data();
        var part = _head!.Part;
        using var wide = new ChartDrawing(data);
        using var narrow = new ChartDrawing(data, ChartDrawing.Narrow);
        Html($"<section><h2>{HtmlText.Escape(part.Title)}</h2><figure aria-label=\"{HtmlText.Escape(part.Title)}\"><div class=\"wide\">{wide.Inline($"w{_parts}")}</div><div class=\"narrow\">{narrow.Inline($"n{_parts}")}</div></figure>");
        if (data.Note.Length > 0)
            Html($"<p class=\"small\">{HtmlText.Escape(char.ToUpperInvariant(data.Note[0]) + data.Note[1..])}.</p>");
        Html("<details><summary>The numbers</summary><div class=\"rows\"><table><thead><tr>");
        foreach (var column in _head.Columns)
            Html($"<th scope=\"col\"{(column.IsNumber ? " class=\"number\"" : "")}>{HtmlText.Escape(_shown.Head(column))}</th>");
        Html("</tr></thead><tbody>\n");
        foreach (var row in rows.Rows)
            Html($"<tr>{string.Concat(row.Select((value, place) => $"<td{(_head.Columns[place].IsNumber ? " class=\"number\"" : "")}>{HtmlText.Escape(value is null ? "–" : Thousands.Shown(value, _head.Columns[place]))}</td>"))}</tr>\n");
        Html("</tbody></table></div></details></section>\n");
    }

    // Figures stand in rows, and charts side by side where there is room.
    private void Group(HtmlPageGroup next)
    {
        if (next == _group)
            return;
        Html(_group switch { HtmlPageGroup.Figures => "</dl>\n", HtmlPageGroup.Charts => "</div>\n", HtmlPageGroup.None => "" });
        Html(next switch
        {
            HtmlPageGroup.Figures => "<dl class=\"figures\">\n",
            HtmlPageGroup.Charts => "<div class=\"charts\">\n",
            HtmlPageGroup.None => "",
        });
        _group = next;
    }

    private void Html(string html) => HtmlText.Write(_output, html);
}

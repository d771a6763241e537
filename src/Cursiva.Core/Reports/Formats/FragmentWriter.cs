using System.Globalization;
using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>
/// HTML for a mail or a wiki page: no script, no style sheet, nothing but elements with inline styles, since these places remove
/// everything else. Charts are tables with bars.
/// </summary>
internal sealed class FragmentWriter : IReportWriter
{
    /// <summary>What it writes.</summary>
    public static IReadOnlyList<WrittenFormat> Declared { get; } =
    [
        new(target => new FragmentWriter(target.Stream, target.Report, target.Context))
        {
            Suffix = ".fragment.html",
            Holds = FormatHolds.Everything,
            MayBePacked = true,
        },
    ];

    private const int MostRows = 200;
    private const string Font = "font-family:Segoe UI,Helvetica,Arial,sans-serif;color:#17282c;";
    private const string Faint = "color:#5b6d70;font-size:13px;";
    private const string Cell = "padding:5px 14px 5px 0;border-bottom:1px solid #d9dfdc;vertical-align:top;font-size:14px;";
    private const string Heading = "font-family:Palatino Linotype,Palatino,Georgia,serif;font-style:italic;";

    private readonly StreamWriter _writer;
    private readonly ReportContext _context;
    private readonly List<string?[]> _rows = [];
    private readonly ShownValue _shown;
    private PartHead? _head;
    private long _count;

    public FragmentWriter(Stream stream, Report report, ReportContext context)
    {
        _writer = new StreamWriter(stream, new UTF8Encoding(false), 64 * 1024, leaveOpen: true) { NewLine = "\n" };
        _context = context;
        _shown = new ShownValue(context.Zone);
        _writer.WriteLine($"<div style=\"{Font}font-size:15px;line-height:1.45;max-width:860px;\">");
        _writer.WriteLine(
            $"<h1 style=\"{Heading}font-size:26px;margin:0 0 4px 0;padding-top:10px;border-top:5px solid #22706a;\">{HtmlText.Escape(report.Title)}</h1>");
        _writer.WriteLine($"<p style=\"{Faint}margin:0 0 14px 0;\">{HtmlText.Escape(ReportWords.MadeFrom(context))}</p>");
        foreach (var warning in ReportWords.Warnings(context))
            _writer.WriteLine(
                $"<p style=\"background:#fbf1dc;border-left:4px solid #8a5a00;padding:8px 12px;margin:0 0 10px 0;\"><b style=\"color:#8a5a00;\">Note</b> {HtmlText.Escape(warning)}</p>");
    }

    public void Begin(PartHead head)
    {
        (_head, _count) = (head, 0);
        _rows.Clear();
        if (head.Part.Kind == PartKind.Figure)
            return;
        _writer.WriteLine(
            $"<h2 style=\"{Heading}font-size:19px;color:#22706a;margin:22px 0 6px 0;\">{HtmlText.Escape(head.Part.Title)}</h2>");
        foreach (var words in head.Words)
            _writer.WriteLine($"<p style=\"margin:0 0 8px 0;\">{HtmlText.Escape(words)}</p>");
    }

    public void Row(TextRows rows)
    {
        if (_count++ < MostRows)
            _rows.Add(
                [.. Enumerable.Range(0, rows.Columns).Select(
                    column => rows.IsNull(column) ? null : _shown.Of(rows.Value(column), _head!.Columns[column].Form))]);
    }

    public void EndPart()
    {
        var head = _head!;
        if (head.Part.Kind == PartKind.Figure)
            Figure(head);
        else if (head.Columns.Count > 0)
            Table(head);
    }

    public void End()
    {
        _writer.WriteLine("</div>");
        _writer.Flush();
    }

    public void Dispose() => _writer.Dispose();

    private void Figure(PartHead head)
    {
        var value = _rows.Count > 0 ? _rows[0][0] : null;
        var change = ReportWords.Change(value, head.Before, _context);
        _writer.WriteLine(
            $"<p style=\"margin:0 0 10px 0;\"><span style=\"{Faint}\">{HtmlText.Escape(head.Part.Title)}</span><br><b style=\"font-size:24px;\">{HtmlText.Escape(head.Columns[0].IsNumber ? ReportWords.Figure(value) : value ?? "none")}</b>{(head.Part.Unit is { } unit ? $" <span style=\"{Faint}\">{HtmlText.Escape(unit)}</span>" : "")}{(change.Length > 0 ? $" <span style=\"{Faint}\">{HtmlText.Escape(change)}</span>" : "")}</p>");
    }

    private void Table(PartHead head)
    {
        var largest = head.Part.IsChart ? _rows.Select(row => BarOf(head, row)).DefaultIfEmpty(0).Max() : 0;
        _writer.WriteLine("<table style=\"border-collapse:collapse;width:100%;\"><tr>");
        foreach (var column in head.Columns)
            _writer.WriteLine(
                $"<th style=\"{Cell}border-bottom:2px solid #22706a;text-align:{(column.IsNumber ? "right" : "left")};\">{HtmlText.Escape(_shown.Head(column))}</th>");
        if (largest > 0)
            _writer.WriteLine($"<th style=\"{Cell}border-bottom:2px solid #22706a;width:40%;\"></th>");
        _writer.WriteLine("</tr>");
        foreach (var row in _rows)
        {
            _writer.Write("<tr>");
            for (var column = 0; column < row.Length; column++)
                _writer.Write(
                    $"<td style=\"{Cell}text-align:{(head.Columns[column].IsNumber ? "right" : "left")};\">{HtmlText.Escape(row[column] is { } value ? Thousands.Shown(value, head.Columns[column]) : "–")}</td>");
            if (largest > 0)
                _writer.Write(
                    $"<td style=\"{Cell}\"><div style=\"background:#2f7f79;height:14px;width:{(BarOf(head, row) / largest * 100).ToString("0.#", CultureInfo.InvariantCulture)}%;\"></div></td>");
            _writer.WriteLine("</tr>");
        }

        _writer.WriteLine("</table>");
        if (_count > MostRows)
            _writer.WriteLine($"<p style=\"{Faint}\">The first {ReportWords.Grouped(MostRows)} of {ReportWords.Grouped(_count)} rows.</p>");
        else if (_count == 0)
            _writer.WriteLine($"<p style=\"{Faint}\">No rows.</p>");
        if (ReportWords.Thresholds(head.Part) is { Length: > 0 } thresholds)
            _writer.WriteLine($"<p style=\"{Faint}\">{HtmlText.Escape(thresholds)}</p>");
    }

    // One value can be drawn as a bar; several are told apart better as numbers.
    private static double BarOf(PartHead head, string?[] row) =>
        head.Columns is [_, { IsNumber: true }] && double.TryParse(
            row[1], NumberStyles.Float, CultureInfo.InvariantCulture, out var value) && value > 0
            ? value
            : 0;
}

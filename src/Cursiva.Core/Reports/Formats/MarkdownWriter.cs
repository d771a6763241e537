using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>A report as Markdown with tables; charts are the tables of their values.</summary>
internal sealed class MarkdownWriter : IReportWriter
{
    /// <summary>What it writes.</summary>
    public static IReadOnlyList<WrittenFormat> Declared { get; } =
    [
        new(target => new MarkdownWriter(target.Stream, target.Report, target.Context))
        {
            Suffix = ".md",
            Holds = FormatHolds.Everything,
            MayBePacked = true,
        },
    ];

    private const int MostRows = 1000;

    private readonly StreamWriter _writer;
    private readonly ReportContext _context;
    private readonly ShownValue _shown;
    private PartHead? _head;
    private long _rows;
    private string? _figure;

    public MarkdownWriter(Stream stream, Report report, ReportContext context)
    {
        _writer = new StreamWriter(stream, new UTF8Encoding(false), 64 * 1024, leaveOpen: true) { NewLine = "\n" };
        _context = context;
        _shown = new ShownValue(context.Zone);
        _writer.WriteLine($"# {Escape(report.Title)}\n");
        _writer.WriteLine(Escape(ReportWords.MadeFrom(context)));
        foreach (var warning in ReportWords.Warnings(context))
            _writer.WriteLine($"\n> **Note:** {Escape(warning)}");
    }

    public void Begin(PartHead head)
    {
        (_head, _rows, _figure) = (head, 0, null);
        if (head.Part.Kind == PartKind.Figure)
            return;
        _writer.WriteLine($"\n## {Escape(head.Part.Title)}\n");
        foreach (var words in head.Words)
            _writer.WriteLine(Escape(words) + "\n");
        if (head.Columns.Count == 0)
            return;
        _writer.WriteLine($"| {string.Join(" | ", head.Columns.Select(column => Escape(_shown.Head(column))))} |");
        _writer.WriteLine($"|{string.Join("|", head.Columns.Select(column => column.IsNumber ? "--:" : "---"))}|");
    }

    public void Row(TextRows rows)
    {
        _rows++;
        if (_head!.Part.Kind == PartKind.Figure)
            _figure = rows.IsNull(0) ? null : _shown.Of(rows.Value(0), _head.Columns[0].Form);
        else if (_rows <= MostRows)
            _writer.WriteLine(
                $"| {string.Join(" | ", Enumerable.Range(0, rows.Columns).Select(column => rows.IsNull(column) ? "" : Escape(Thousands.Shown(_shown.Of(rows.Value(column), _head!.Columns[column].Form), _head.Columns[column]))))} |");
    }

    public void EndPart()
    {
        var head = _head!;
        if (head.Part.Kind == PartKind.Figure)
            _writer.WriteLine(
                $"\n**{Escape(head.Part.Title)}: {Escape(ReportWords.Figure(_figure))}{(head.Part.Unit is { } unit ? " " + Escape(unit) : "")}**{(ReportWords.Change(_figure, head.Before, _context) is { Length: > 0 } change ? " (" + Escape(change) + ")" : "")}");
        else if (_rows > MostRows)
            _writer.WriteLine($"\nThe first {ReportWords.Grouped(MostRows)} of {ReportWords.Grouped(_rows)} rows.");
        else if (head.Columns.Count > 0 && _rows == 0)
            _writer.WriteLine("\nNo rows.");
        if (ReportWords.Thresholds(head.Part) is { Length: > 0 } thresholds)
            _writer.WriteLine("\n" + Escape(thresholds));
    }

    public void End() => _writer.Flush();

    public void Dispose() => _writer.Dispose();

    // What Markdown or HTML would read as theirs is written as it is meant.
    private static string Escape(string text)
    {
        var escaped = new StringBuilder(text.Length + 8);
        foreach (var c in text)
        {
            switch (c)
            {
                case '\\' or '`' or '*' or '_' or '[' or ']' or '#' or '|' or '~':
                    escaped.Append('\\').Append(c);
                    break;
                case '<':
                    escaped.Append("&lt;");
                    break;
                case '&':
                    escaped.Append("&amp;");
                    break;
                case '\n' or '\r':
                    escaped.Append(' ');
                    break;
                default:
                    escaped.Append(c);
                    break;
            }
        }

        return escaped.ToString();
    }
}

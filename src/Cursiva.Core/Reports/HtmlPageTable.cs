using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Unicode;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>
/// A table of the page: its first rows stand in the page as they are, for paper and for browsers without scripts; all of them
/// follow as JSON, for sorting, filtering and paging.
/// </summary>
internal sealed class HtmlPageTable : IDisposable
{
    /// <summary>Rows that a page holds; what is beyond is told.</summary>
    public const int MostRows = 50_000;

    private const int RowsInSight = 50;
    private static readonly JavaScriptEncoder s_encoder = JavaScriptEncoder.Create(UnicodeRanges.All);

    private readonly BufferedOutput _output;
    private readonly IReadOnlyList<ResultColumn> _columns;
    private readonly string _id;
    private readonly ShownValue _shown;
    private readonly MemoryStream _held = new();
    private readonly byte[] _space = new byte[64];
    private BufferedOutput _json;

    /// <param name="title">An HTML heading; empty for none.</param>
    public HtmlPageTable(BufferedOutput output, PartHead head, string id, string title, ShownValue shown)
    {
        _output = output;
        _columns = head.Columns;
        _id = id;
        _shown = shown;
        _json = new BufferedOutput(_held);
        var kinds = string.Join(' ', _columns.Select(column => Thousands.Of(column) ? "amount" : column.IsNumber ? "number" : "text"));
        Html($"<section class=\"long\" data-rows=\"{id}\" data-kinds=\"{kinds}\">{title}<div class=\"tools\" hidden><input type=\"search\" placeholder=\"Filter rows\" aria-label=\"Filter rows of {HtmlText.Escape(head.Part.Title)}\"><span class=\"count\" role=\"status\"></span><button type=\"button\">Back</button><button type=\"button\">Next</button></div>\n<div class=\"rows\" tabindex=\"0\"><table><thead><tr>");
        foreach (var column in _columns)
            Html($"<th scope=\"col\"{(column.IsNumber ? " class=\"number\"" : "")}><button type=\"button\">{HtmlText.Escape(_shown.Head(column))}</button></th>");
        Html("</tr></thead><tbody>\n");
    }

    public long Rows { get; private set; }

    public void Row(TextRows rows)
    {
        Rows++;
        if (Rows <= RowsInSight)
            InSight(rows);
        else if (Rows == RowsInSight + 1)
            Release();
        if (Rows <= MostRows)
            Json(rows);
    }

    public void End()
    {
        if (Rows <= RowsInSight)
            Release();
        Html("]</script>\n");
        if (Rows > MostRows)
            Html($"<p class=\"small\">The first {ReportWords.Grouped(MostRows)} of {ReportWords.Grouped(Rows)} rows are in this page.</p>");
        else if (Rows > RowsInSight)
            Html($"<noscript><p class=\"small\">The first {RowsInSight} of {ReportWords.Grouped(Rows)} rows; the others need scripts in the browser.</p></noscript>");
        else if (Rows == 0)
            Html("<p class=\"small\">No rows.</p>");
        Html("</section>\n");
    }

    public void Dispose() => _held.Dispose();

    private void InSight(TextRows rows)
    {
        Html("<tr>");
        for (var column = 0; column < _columns.Count; column++)
        {
            if (rows.IsNull(column))
            {
                Html("<td class=\"none\">–</td>");
                continue;
            }

            Html(_columns[column].IsNumber ? "<td class=\"number\">" : "<td>");
            if (Thousands.Of(_columns[column]))
                Html(ReportWords.Figure(_shown.Of(rows.Value(column), _columns[column].Form)));
            else
                HtmlText.Write(_output, _shown.Of(rows.Value(column), _columns[column].Form, _space));
            Html("</td>");
        }

        Html("</tr>\n");
    }

    // The rows as JSON follow the table, so those in sight are held back until it is closed.
    private void Release()
    {
        Html($"</tbody></table></div>\n<script type=\"application/json\" id=\"{_id}\">[");
        _json.Flush();
        _output.Write(_held.GetBuffer().AsSpan(0, (int)_held.Length));
        _held.Dispose();
        _json = _output;
    }

    private void Json(TextRows rows)
    {
        _json.Write(Rows == 1 ? "["u8 : ",\n["u8);
        for (var column = 0; column < _columns.Count; column++)
        {
            if (column > 0)
                _json.Write((byte)',');
            if (rows.IsNull(column))
                _json.Write("null"u8);
            else
                Quoted(_shown.Of(rows.Value(column), _columns[column].Form, _space));
        }

        _json.Write((byte)']');
    }

    private void Quoted(ReadOnlySpan<byte> text)
    {
        _json.Write((byte)'"');
        _json.Write(s_encoder.FindFirstCharacterToEncodeUtf8(text) < 0 ? text : JsonEncodedText.Encode(text, s_encoder).EncodedUtf8Bytes);
        _json.Write((byte)'"');
    }

    private void Html(string html) => HtmlText.Write(_output, html);
}

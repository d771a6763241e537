using System.Buffers;
using System.Runtime.CompilerServices;
using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>
/// Comma-separated values (RFC 4180): a header line, CR LF at every line's end, quotes where they are needed. A null is nothing
/// between the commas and an empty text is <c>""</c>, so that the two stay apart.
/// </summary>
internal sealed class CsvWriter : IReportWriter
{
    /// <summary>What it writes.</summary>
    public static IReadOnlyList<WrittenFormat> Declared { get; } =
    [
        new(target => new CsvWriter(target.Stream, target.Report.Csv))
        {
            Suffix = ".csv",
            Holds = FormatHolds.OneTable,
            MayBePacked = true,
        },
    ];

    private readonly CsvForm _form;
    private readonly SearchValues<byte> _special;
    private readonly byte[] _lineEnd;
    private readonly byte _delimiter;
    private readonly BufferedOutput _output;
    private ValueForm[] _forms = [];
    private bool[] _isPlain = [];

    public CsvWriter(Stream stream, CsvForm form)
    {
        _form = form;
        _delimiter = (byte)form.Delimiter;
        _special = SearchValues.Create([_delimiter, (byte)'"', (byte)'\r', (byte)'\n']);
        _lineEnd = Encoding.ASCII.GetBytes(form.LineEnd);
        _output = new BufferedOutput(stream);
        if (form.ByteOrderMark)
            _output.Write("\uFEFF"u8);
    }

    public void Begin(PartHead head)
    {
        _forms = [.. head.Columns.Select(column => column.Form)];
        _isPlain = [.. _forms.Select(form => IsPlain(form))];
        if (!_form.Header)
            return;
        for (var column = 0; column < head.Columns.Count; column++)
        {
            if (column > 0)
                _output.Write(_delimiter);
            Value(Encoding.UTF8.GetBytes(head.Columns[column].Name), ValueForm.Text);
        }

        _output.Write(_lineEnd);
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public void Row(TextRows rows)
    {
        for (var column = 0; column < rows.Columns; column++)
        {
            if (column > 0)
                _output.Write(_delimiter);
            if (rows.IsNull(column))
                continue;
            if (_isPlain[column])
                _output.Write(rows.Value(column));
            else
                Value(rows.Value(column), _forms[column]);
        }

        _output.Write(_lineEnd);
    }

    public void EndPart()
    {
        // One table is the whole file.
    }

    public void End() => _output.Flush();

    public void Dispose()
    {
        // The stream is not ours.
    }

    // Numbers, times and the like have nothing in them that needs quotes.
    private bool IsPlain(ValueForm form) =>
        !_form.Spreadsheet
            && _form.Delimiter is ',' or ';' or '\t' or '|'
            && form is ValueForm.Whole or ValueForm.Decimal or ValueForm.Float or ValueForm.Boolean or ValueForm.Date or ValueForm.Time;

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private void Value(ReadOnlySpan<byte> text, ValueForm form)
    {
        if (!_form.Spreadsheet)
        {
            Text(text);
            return;
        }

        // A spreadsheet may part columns by another character than ours: what is quoted whole it leaves whole.
        if (SpreadsheetText.Guard(text, form, _form.Delimiter) is { } guarded)
            Quoted(guarded);
        else if (form is ValueForm.Whole or ValueForm.Decimal or ValueForm.Float or ValueForm.Boolean or ValueForm.Date)
            Text(text);
        else
            Quoted(text);
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void Text(ReadOnlySpan<byte> text)
    {
        if (text.Length > 0 && text.IndexOfAny(_special) < 0)
        {
            _output.Write(text);
            return;
        }

        Quoted(text);
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void Quoted(ReadOnlySpan<byte> text)
    {
        _output.Write((byte)'"');
        for (var quote = text.IndexOf((byte)'"'); quote >= 0; quote = text.IndexOf((byte)'"'))
        {
            _output.Write(text[..(quote + 1)]);
            _output.Write((byte)'"');
            text = text[(quote + 1)..];
        }

        _output.Write(text);
        _output.Write((byte)'"');
    }
}

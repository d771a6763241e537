using System.Text;
using Cursiva.Core.Secrets;

namespace Cursiva.Cli;

/// <summary>
/// Passes text on line by line, and masks secrets that got this far: text from outside was cleaned before it became part of a message.
/// </summary>
internal sealed class RedactingWriter(TextWriter inner, Redactor redactor) : TextWriter
{
    private readonly StringBuilder _line = new();
    private readonly Lock _gate = new();

    public override Encoding Encoding => inner.Encoding;

    public override void Write(char value)
    {
        lock (_gate)
        {
            _line.Append(value);
            if (value == '\n')
                PassOn();
        }
    }

    public override void Write(string? value)
    {
        lock (_gate)
        {
            _line.Append(value);
            if (value?.Contains('\n') == true)
                PassOn();
        }
    }

    public override void Write(char[] buffer, int index, int count) => Write(new string(buffer, index, count));

    public override void Flush()
    {
        lock (_gate)
            PassOn();
    }

    private void PassOn()
    {
        if (_line.Length > 0)
            inner.Write(redactor.CleanLine(_line.ToString()));
        _line.Clear();
        inner.Flush();
    }
}

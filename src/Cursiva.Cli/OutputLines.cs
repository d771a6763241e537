using System.Text;

namespace Cursiva.Cli;

/// <summary>Makes an event of each line that a command writes as plain text, so that <c>--log json</c> has nothing else on it.</summary>
internal sealed class OutputLines(EventLines events) : TextWriter
{
    private readonly StringBuilder _line = new();
    private readonly Lock _gate = new();

    public override Encoding Encoding => Encoding.UTF8;

    public override void Write(char value) => Write(value.ToString());

    public override void Write(string? value)
    {
        lock (_gate)
        {
            foreach (var c in value ?? "")
            {
                if (c == '\n')
                    PassOn();
                else
                    _line.Append(c);
            }
        }
    }

    public override void Write(char[] buffer, int index, int count) => Write(new string(buffer, index, count));

    private void PassOn()
    {
        if (_line.ToString().Trim() is { Length: > 0 } line)
            events.Write("output", "info", line);
        _line.Clear();
    }
}

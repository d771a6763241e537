using System.Text;

namespace Cursiva.Cli;

/// <summary>
/// Writes messages for as long as somebody takes them: a terminal that was closed, or a full disk behind a log, ends no run.
/// </summary>
internal sealed class LenientWriter(TextWriter inner) : TextWriter
{
    public override Encoding Encoding => inner.Encoding;

    public override void Write(char value) => Try(() => inner.Write(value));

    public override void Write(string? value) => Try(() => inner.Write(value));

    public override void Write(char[] buffer, int index, int count) => Try(() => inner.Write(buffer, index, count));

    public override void Flush() => Try(inner.Flush);

    private static void Try(Action write)
    {
        try
        {
            write();
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException or ObjectDisposedException)
        {
            // Nobody reads it.
        }
    }
}

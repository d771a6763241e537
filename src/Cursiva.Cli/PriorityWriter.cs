using System.Text;
using System.Text.Json;

namespace Cursiva.Cli;

/// <summary>
/// Takes the lines of <c>--log json</c> and writes their messages, each with its priority before it, as sd-daemon(3) reads them.
/// </summary>
internal sealed class PriorityWriter(TextWriter inner) : TextWriter
{
    public override Encoding Encoding => inner.Encoding;

    public override void Write(char value) => Write(value.ToString());

    public override void Write(string? value)
    {
        foreach (var line in (value ?? "").Split('\n', StringSplitOptions.RemoveEmptyEntries))
        {
            using var document = JsonDocument.Parse(line);
            var (level, message) = (
                document.RootElement.GetProperty("level").GetString(), document.RootElement.GetProperty("message").GetString());
            inner.Write($"<{JournalWriter.PriorityOf(level)}>{message!.ReplaceLineEndings(" ")}\n");
        }
    }

    public override void Flush() => inner.Flush();
}

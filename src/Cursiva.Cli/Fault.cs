using Cursiva.Core.Secrets;

namespace Cursiva.Cli;

/// <summary>Tells an internal error: calmly, and with a stack trace only for those who asked for one.</summary>
internal static class Fault
{
    public static async Task TellAsync(TextWriter writer, Exception error, bool debug)
    {
        await writer.WriteLineAsync(OneLine.Of($"cursiva: internal error: {error.GetType().Name}: {error.Message}"));
        await writer.WriteLineAsync(debug ? string.Join(Environment.NewLine, error.ToString().Split('\n').Select(line => OneLine.Of(line.TrimEnd('\r')))) : "  next: run again with --log debug and report what it prints");
        await writer.FlushAsync();
    }
}

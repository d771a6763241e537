using Cursiva.Core.Secrets;

namespace Cursiva.Cli;

/// <summary>Tells an internal error: calmly, and with a stack trace only for those who asked for one.</summary>
internal static class Fault
{
    /// <summary>Tells it as an event where a program reads on.</summary>
    public static async Task TellAsync(Terminal terminal, Exception error, bool debug)
    {
        if (terminal.Events is { } events)
            events.Write(
                "internal-error",
                "error",
                OneLine.Of($"internal error: {error.GetType().Name}: {error.Message}"),
                new("exception", debug ? error.ToString() : null),
                new("next-step", debug ? null : "run it again with --log debug, and report the output"));
        else
            await TellAsync(terminal.ErrorWriter, error, debug);
    }

    public static async Task TellAsync(TextWriter writer, Exception error, bool debug)
    {
        await writer.WriteLineAsync(OneLine.Of($"cursiva: internal error: {error.GetType().Name}: {error.Message}"));
        await writer.WriteLineAsync(
            debug
                ? string.Join(Environment.NewLine, error.ToString().Split('\n').Select(line => OneLine.Of(line.TrimEnd('\r'))))
                : "  next: run it again with --log debug, and report the output");
        await writer.FlushAsync();
    }
}

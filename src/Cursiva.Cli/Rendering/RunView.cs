using Cursiva.Core.Refusals;

namespace Cursiva.Cli.Rendering;

/// <summary>Chooses how a run is shown while it goes on.</summary>
internal static class RunView
{
    /// <summary>A live view on a terminal, dated lines in a pipe, JSON lines where they were asked for.</summary>
    public static IRunView For(Terminal terminal, TimeProvider clock, ViewChoice view, Advice advice, string? job) =>
        terminal.ErrorIsTerminal && !view.JsonLog && !view.Debug
            ? new LiveView(terminal.Error, clock, advice)
            : new LogView(terminal.ErrorWriter, clock, view, advice, job);
}

using Cursiva.Core.Secrets;
using Spectre.Console;

namespace Cursiva.Cli;

/// <summary>Where a command writes: results to <see cref="Out"/>, progress and messages to <see cref="Error"/>; no secret passes.</summary>
internal sealed class Terminal
{
    /// <param name="form">How whatever goes to stderr is told.</param>
    public Terminal(Redactor redactor, Func<string, string?> environment, LogForm form = LogForm.Plain)
    {
        var asEvents = form != LogForm.Plain;
        Redactor = redactor;
        var colours = string.IsNullOrEmpty(environment("NO_COLOR")) && environment("TERM") != "dumb";
        Out = Make(Console.Out, redactor, !Console.IsOutputRedirected, colours);
        ErrorWriter = new RedactingWriter(
            form == LogForm.Journal ? JournalWriter.Open(environment, Console.Error) : Console.Error, redactor);
        Events = asEvents ? new EventLines(ErrorWriter, TimeProvider.System) : null;
        Error = Events is null
            ? Make(Console.Error, redactor, !Console.IsErrorRedirected, colours)
            : Make(new OutputLines(Events), redactor, isTerminal: false, colours: false);
        OutIsTerminal = !Console.IsOutputRedirected;
        ErrorIsTerminal = !asEvents && !Console.IsErrorRedirected && environment("TERM") != "dumb";
    }

    public Redactor Redactor { get; }

    public IAnsiConsole Out { get; }

    public IAnsiConsole Error { get; }

    /// <summary>Takes what is told beside the events of a run; null where people read it.</summary>
    public EventLines? Events { get; }

    /// <summary>The plain stream behind <see cref="Error"/>.</summary>
    public TextWriter ErrorWriter { get; }

    public bool OutIsTerminal { get; }

    public bool ErrorIsTerminal { get; }

    private static IAnsiConsole Make(TextWriter writer, Redactor redactor, bool isTerminal, bool colours)
    {
        var console = AnsiConsole.Create(new AnsiConsoleSettings
        {
            Out = new AnsiConsoleOutput(new RedactingWriter(writer, redactor)),
            Ansi = isTerminal ? AnsiSupport.Yes : AnsiSupport.No,
            ColorSystem = isTerminal && colours ? ColorSystemSupport.Standard : ColorSystemSupport.NoColors,
            Interactive = InteractionSupport.No,
        });

        // A pipe has no width: nothing that is read by a program may be wrapped.
        if (!isTerminal)
            console.Profile.Width = 10_000;
        return console;
    }
}

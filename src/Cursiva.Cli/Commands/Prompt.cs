using System.Text;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Refusals;
using Spectre.Console;

namespace Cursiva.Cli.Commands;

/// <summary>Takes what only a person or a pipe can give. Nothing is asked when stdin is not a terminal.</summary>
internal static class Prompt
{
    // The lines of one paste come at once; a person who types takes longer.
    private static readonly TimeSpan s_pasted = TimeSpan.FromMilliseconds(150);

    /// <summary>A secret: typed without being shown, or all of stdin.</summary>
    public static async Task<string> SecretAsync(Terminal terminal, string what, CancellationToken cancel)
    {
        if (Console.IsInputRedirected)
        {
            var piped = await Console.In.ReadToEndAsync(cancel);
            return piped.EndsWith('\n') ? piped[..^1].TrimEnd('\r') : piped;
        }

        Ask(terminal, $"{what} (not shown)");
        var typed = new StringBuilder();
        while (await WaitAsync(() => Console.ReadKey(intercept: true), cancel) is { Key: not ConsoleKey.Enter } key)
        {
            if (key.Key == ConsoleKey.Backspace && typed.Length > 0)
                typed.Length--;
            else if (!char.IsControl(key.KeyChar))
                typed.Append(key.KeyChar);
        }

        terminal.Error.WriteLine();
        terminal.Error.Profile.Out.Writer.Flush();
        return typed.ToString();
    }

    /// <summary>What is pasted, which may be wrapped over lines: all of a pipe, or the lines that a terminal has at once.</summary>
    /// <exception cref="RefusedException">There was nothing.</exception>
    public static async Task<string> PastedAsync(Terminal terminal, string what, CancellationToken cancel)
    {
        string? text;
        if (Console.IsInputRedirected)
        {
            text = await Console.In.ReadToEndAsync(cancel);
        }
        else
        {
            Ask(terminal, what);
            text = await WaitAsync(Console.ReadLine, cancel);
            await Task.Delay(s_pasted, cancel);
            while (Console.KeyAvailable)
            {
                text += await WaitAsync(Console.ReadLine, cancel);
                await Task.Delay(s_pasted, cancel);
            }
        }

        return text is { Length: > 0 }
            ? text
            : throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, "stdin was empty")
                {
                    NextStep = "run the command on a terminal, or pipe the answer in",
                });
    }

    // A terminal is waited for without end, whatever is cancelled: a stop leaves that wait behind, and the process ends.
    private static Task<T> WaitAsync<T>(Func<T> read, CancellationToken cancel) => Task.Run(read, CancellationToken.None).WaitAsync(cancel);

    // A line that has no end yet is shown only when it is asked for.
    private static void Ask(Terminal terminal, string what)
    {
        terminal.Error.Markup(Shown.Escape(what) + ": ");
        terminal.Error.Profile.Out.Writer.Flush();
    }
}

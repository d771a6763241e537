using Cursiva.Cli.Rendering;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Spectre.Console;

namespace Cursiva.Cli.Commands;

/// <summary>The person at the terminal, who signs in.</summary>
internal sealed class Person(Terminal terminal, bool opensBrowser) : IPerson
{
    public void Visit(Uri address, Uri redirect)
    {
        terminal.Error.Say(
            $"Register this redirect address for the client: {redirect.AbsoluteUri}{(redirect is { Scheme: "http", IsLoopback: true } ? " (many servers take any port of a loopback address)" : "")}");
        terminal.Error.MarkupLine("Sign in with a browser at this address:");
        Address(address);
        if (opensBrowser)
            Browser.Open(address, terminal);
    }

    public void Enter(string code, Uri address, Uri? complete, TimeSpan within)
    {
        terminal.Error.Say(
            $"On any device, within {Durations.ForPeople(within)}, open {address.AbsoluteUri} and enter the code [bold]{code}[/].");
        if (complete is not null)
        {
            terminal.Error.MarkupLine("Or open this address, which contains the code:");
            Address(complete);
        }

        if (opensBrowser)
            Browser.Open(complete ?? address, terminal);
    }

    public Task<string> PasteAsync(CancellationToken cancel) =>
        Prompt.PastedAsync(terminal, "Paste the address that the browser was sent to, or the code", cancel);

    // On stdout and never wrapped, so that it can be copied and piped whole.
    private void Address(Uri address) => terminal.Out.WriteLineAsIs(address.AbsoluteUri);
}

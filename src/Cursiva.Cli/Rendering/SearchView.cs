using Cursiva.Core.Checks;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Tells a search for a way in, as it goes.</summary>
internal sealed class SearchView(IAnsiConsole console) : IAccessSearchWatch
{
    public void Begins(string identity, int signIns, string where) =>
        console.Say($"Trying other ways as identity '{identity}': at most {signIns} sign-{(signIns == 1 ? "in" : "ins")} at {where}, one after another.");

    public void Tried(AccessTrial trial, string? refused) =>
        console.Say($"  {trial.ToString()} ... {(refused is null ? "got in" : "refused: " + refused)}");

    public void NotTried(string identity, string why) => console.Say($"No other ways are tried for identity '{identity}': {why}.");
}

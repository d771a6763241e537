using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Refusals;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Tells of a short command only what a person should know.</summary>
internal sealed class QuietWatch(IAnsiConsole console, Advice advice) : IRequestWatch, ISignInWatch
{
    public void Answered(Request request, int status, TimeSpan took)
    {
    }

    public void Unanswered(Request request)
    {
    }

    public void Retrying(Request request, string reason, int attempt, TimeSpan delay)
    {
    }

    public void Waiting(string limit, TimeSpan delay)
    {
    }

    public void Waited(TimeSpan waited)
    {
    }

    public void SignedIn(string identity, TimeSpan lifetime)
    {
    }

    public void Warned(string what) => console.Say($"[yellow]Note:[/] {advice.Of(what)}");
}

using Cursiva.Core.Http;
using Cursiva.Core.Identity;

namespace Cursiva.Core.Tests.Http;

/// <summary>Remembers what it was told.</summary>
internal sealed class SilentWatch : IRequestWatch, ISignInWatch
{
    public List<TimeSpan> Retries { get; } = [];

    public int SignIns { get; private set; }

    public void Answered(Request request, int status, TimeSpan took)
    {
    }

    public void Unanswered(Request request)
    {
    }

    public void Retrying(Request request, string reason, int attempt, TimeSpan delay) => Retries.Add(delay);

    public void Waiting(string limit, TimeSpan delay)
    {
    }

    public void Waited(TimeSpan waited)
    {
    }

    public void SignedIn(string identity, TimeSpan lifetime) => SignIns++;

    public List<string> Warnings { get; } = [];

    public void Warned(string what) => Warnings.Add(what);
}

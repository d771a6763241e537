using Cursiva.Core.Http;
using Cursiva.Core.Pulls;
using Cursiva.Core.Reports;
using Cursiva.Core.Runs;

namespace Cursiva.Core.Tests.Runs;

/// <summary>Tells nobody how a run goes.</summary>
internal sealed class SilentRun : IRunWatch
{
    public void Began(int run, bool goesOn, string reason)
    {
    }

    public void Doing(string what)
    {
    }

    public void Wrote(WrittenFile file)
    {
    }

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

    public void Warned(string what)
    {
    }

    public void SignedIn(string identity, TimeSpan lifetime)
    {
    }

    public void PullBegan(PullProgress pull)
    {
    }

    public void PullEnded(PullProgress pull)
    {
    }

    public void Skipped(PullProgress pull, string strand, string because)
    {
    }
}

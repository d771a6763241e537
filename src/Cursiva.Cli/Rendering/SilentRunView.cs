using Cursiva.Core.Http;
using Cursiva.Core.Pulls;
using Cursiva.Core.Reports;

namespace Cursiva.Cli.Rendering;

/// <summary>Shows nothing of a run; how it ended is told by its summary.</summary>
internal sealed class SilentRunView : IRunView
{
    public void Began(int run, bool goesOn, string reason)
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

    public void Doing(string what)
    {
    }

    public void Wrote(WrittenFile file)
    {
    }

    public void Warned(string what)
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

    public void SignedIn(string identity, TimeSpan lifetime)
    {
    }

    public void Dispose()
    {
    }
}

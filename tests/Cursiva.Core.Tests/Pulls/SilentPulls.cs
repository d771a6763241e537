using Cursiva.Core.Pulls;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>Tells nobody how pulls go.</summary>
internal sealed class SilentPulls : IPullWatch
{
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

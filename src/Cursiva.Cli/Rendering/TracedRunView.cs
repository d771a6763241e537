using Cursiva.Core.Http;
using Cursiva.Core.Pulls;
using Cursiva.Core.Reports;
using Cursiva.Core.Secrets;

namespace Cursiva.Cli.Rendering;

/// <summary>Passes on what a run tells, and notes its requests for a trace.</summary>
/// <param name="redactor">Takes secrets out of addresses before anything is noted.</param>
internal sealed class TracedRunView(IRunView inner, Telemetry telemetry, Redactor redactor) : IRunView
{
    public void Began(int run, bool goesOn, string reason) => inner.Began(run, goesOn, reason);

    public void PullBegan(PullProgress pull) => inner.PullBegan(pull);

    public void PullEnded(PullProgress pull) => inner.PullEnded(pull);

    public void Skipped(PullProgress pull, string strand, string because) => inner.Skipped(pull, strand, because);

    public void Doing(string what) => inner.Doing(what);

    public void Wrote(WrittenFile file) => inner.Wrote(file);

    public void Warned(string what) => inner.Warned(what);

    public void Answered(Request request, int status, TimeSpan took)
    {
        telemetry.Request(request.Method.Method, redactor.Clean(ShownAddress.Of(request.Uri)), status, took);
        inner.Answered(request, status, took);
    }

    public void Unanswered(Request request)
    {
        telemetry.Request(request.Method.Method, redactor.Clean(ShownAddress.Of(request.Uri)), 0, TimeSpan.Zero);
        inner.Unanswered(request);
    }

    public void Retrying(Request request, string reason, int attempt, TimeSpan delay) => inner.Retrying(request, reason, attempt, delay);

    public void Waiting(string limit, TimeSpan delay) => inner.Waiting(limit, delay);

    public void Waited(TimeSpan waited) => inner.Waited(waited);

    public void SignedIn(string identity, TimeSpan lifetime) => inner.SignedIn(identity, lifetime);

    public void Dispose() => inner.Dispose();
}

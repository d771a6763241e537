using Cursiva.Core.Http;
using Cursiva.Core.Identity;

namespace Cursiva.Core.Runs;

/// <summary>Counts requests, retries and waits, and passes everything on.</summary>
internal sealed class RunCounters(IRunWatch watch) : IRequestWatch, ISignInWatch
{
    private long _requests;
    private long _retries;
    private long _signIns;
    private long _waited;

    public long Requests => Interlocked.Read(ref _requests);

    public long Retries => Interlocked.Read(ref _retries);

    public long SignIns => Interlocked.Read(ref _signIns);

    public TimeSpan Waited => TimeSpan.FromTicks(Interlocked.Read(ref _waited));

    void IRequestWatch.Answered(Request request, int status, TimeSpan took)
    {
        Interlocked.Increment(ref _requests);
        watch.Answered(request, status, took);
    }

    void IRequestWatch.Retrying(Request request, string reason, int attempt, TimeSpan delay)
    {
        Interlocked.Increment(ref _retries);
        watch.Retrying(request, reason, attempt, delay);
    }

    void IRequestWatch.Waiting(string limit, TimeSpan delay) => watch.Waiting(limit, delay);

    void IRequestWatch.Waited(TimeSpan waited)
    {
        Interlocked.Add(ref _waited, waited.Ticks);
        watch.Waited(waited);
    }

    void ISignInWatch.SignedIn(string identity, TimeSpan lifetime)
    {
        Interlocked.Increment(ref _signIns);
        watch.SignedIn(identity, lifetime);
    }

    void ISignInWatch.Warned(string what) => watch.Warned(what);
}

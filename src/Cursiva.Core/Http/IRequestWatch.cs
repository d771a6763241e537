namespace Cursiva.Core.Http;

/// <summary>Is told what happens to requests, by any thread.</summary>
public interface IRequestWatch : IWarningWatch
{
    /// <summary>A request was answered.</summary>
    void Answered(Request request, int status, TimeSpan took);

    /// <summary>A request left, and its answer did not come whole: the server may have seen it.</summary>
    void Unanswered(Request request);

    /// <summary>A request failed and will be sent again.</summary>
    /// <param name="attempt">The attempt that failed, from 1.</param>
    void Retrying(Request request, string reason, int attempt, TimeSpan delay);

    /// <summary>A request waits for a declared limit or a pause that the API asked for.</summary>
    /// <param name="limit">What it waits for, in words.</param>
    void Waiting(string limit, TimeSpan delay);

    /// <summary>The wait is over.</summary>
    void Waited(TimeSpan waited);
}

namespace Cursiva.Core.Http;

/// <summary>Is told every request and what came back, by any thread.</summary>
public interface IExchangeWatch
{
    /// <summary>A request was answered.</summary>
    void Answered(Request request, Answer answer, DateTimeOffset began);

    /// <summary>A request got no complete answer.</summary>
    void Failed(Request request, TransportException error, DateTimeOffset began, TimeSpan took);
}

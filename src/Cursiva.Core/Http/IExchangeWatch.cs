namespace Cursiva.Core.Http;

/// <summary>Is told every request and what came back, by any thread.</summary>
public interface IExchangeWatch
{
    void Answered(Request request, Answer answer, DateTimeOffset began);

    void Failed(Request request, TransportException error, DateTimeOffset began, TimeSpan took);
}

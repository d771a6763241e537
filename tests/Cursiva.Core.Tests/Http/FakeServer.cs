using System.Net;
using System.Text;

namespace Cursiva.Core.Tests.Http;

/// <summary>Answers requests in memory.</summary>
internal sealed class FakeServer(Func<HttpRequestMessage, int, HttpResponseMessage> answer) : HttpMessageHandler
{
    private int _requests;

    public List<HttpRequestMessage> Requests { get; } = [];

    public List<string> Bodies { get; } = [];

    public static HttpResponseMessage Json(string text, int status = 200) => new((HttpStatusCode)status) { Content = new StringContent(text, Encoding.UTF8, "application/json") };

    protected override async Task<HttpResponseMessage> SendAsync(HttpRequestMessage request, CancellationToken cancellationToken)
    {
        var body = request.Content is null ? "" : await request.Content.ReadAsStringAsync(cancellationToken);
        lock (Requests)
        {
            Requests.Add(request);
            Bodies.Add(body);
        }

        return answer(request, Interlocked.Increment(ref _requests));
    }
}

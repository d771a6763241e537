using System.Net;
using System.Text.Json;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>An API that takes submissions and loses its answers to them; what it took stands in a list sooner or later.</summary>
/// <param name="listedAfter">The look, from 1, that finds it.</param>
internal sealed class ExportsWithoutAnswers(int listedAfter)
{
    /// <summary>The ids that were submitted.</summary>
    public List<string> Ids { get; } = [];

    /// <summary>How often the list was asked for.</summary>
    public int Looks { get; private set; }

    /// <summary>How often an export stands in the list.</summary>
    public int Copies { get; init; } = 1;

    /// <summary>Whether it answers submissions after all.</summary>
    public bool Answers { get; set; }

    public HttpResponseMessage Answer(HttpRequestMessage request)
    {
        switch (request.RequestUri!.AbsolutePath)
        {
            case "/exports":
                using (var body = JsonDocument.Parse(request.Content!.ReadAsStream()))
                    Ids.Add(body.RootElement.GetProperty("reference").GetString()!);
                return Answers ? new HttpResponseMessage(HttpStatusCode.Accepted) { Headers = { Location = new Uri("/exports/1", UriKind.Relative) } } : FakeServer.Json("{}", 502);
            case "/list":
                var other = """{"reference":"somebody-else","self":"/exports/2"}""";
                var own = string.Concat(Enumerable.Repeat($$""",{"reference":"{{Ids[0]}}","self":"/exports/1"}""", ++Looks >= listedAfter ? Copies : 0));
                return FakeServer.Json($$"""{"items":[{{other}}{{own}}]}""");
            case "/exports/1":
                return new HttpResponseMessage { Content = new StringContent("{\"id\":1}\n{\"id\":2}\n") };
            default:
                return FakeServer.Json("{}", 404);
        }
    }
}

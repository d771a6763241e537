using System.Net;
using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Tests.Http;

public sealed class HarTraceTests
{
    private const string Secret = "s3cr&t value+1";

    [Fact]
    public void Every_exchange_is_an_entry_and_no_form_of_a_secret_is_in_it()
    {
        var redactor = new Redactor();
        redactor.Remember(Secret);
        var stream = new MemoryStream();
        using (var trace = new HarTrace(stream, redactor, "0.1"))
        {
            using var message = new HttpResponseMessage(HttpStatusCode.OK);
            message.Headers.TryAddWithoutValidation("Set-Cookie", "session=1");
            message.Headers.TryAddWithoutValidation("X-Echo", Secret);
            var request = new Request(HttpMethod.Post, new Uri("https://api.example/x?key=" + Uri.EscapeDataString(Secret)), [new("Authorization", "Bearer abc"), new("X-Key", Secret)])
            {
                Body = JsonSerializer.SerializeToUtf8Bytes(new { key = Secret }),
            };
            using var answer = new Answer(200, message.Headers, null, PageBuffer.Of(JsonSerializer.SerializeToUtf8Bytes(new { echo = Secret, n = 1 })), TimeSpan.FromMilliseconds(12.5));
            trace.Answered(request, answer, DateTimeOffset.UnixEpoch);
            trace.Failed(request, new TransportException(Trouble.Silent, "no answer to " + Secret), DateTimeOffset.UnixEpoch, TimeSpan.FromSeconds(1));
        }

        var text = System.Text.Encoding.UTF8.GetString(stream.ToArray());
        foreach (var form in new[] { Secret, Uri.EscapeDataString(Secret), "s3cr\\u0026t", "Bearer abc", "session=1" })
            text.ShouldNotContain(form);
        var entries = JsonDocument.Parse(text).RootElement.GetProperty("log").GetProperty("entries");
        entries.GetArrayLength().ShouldBe(2);
        entries[0].GetProperty("time").GetDouble().ShouldBe(12.5);
        entries[0].GetProperty("request").GetProperty("queryString")[0].GetProperty("value").GetString().ShouldBe(Redactor.Mask);
        entries[0].GetProperty("response").GetProperty("content").GetProperty("text").GetString()!.ShouldContain("\"n\":1");
        entries[1].GetProperty("response").GetProperty("status").GetInt32().ShouldBe(0);
        entries[1].GetProperty("response").GetProperty("comment").GetString().ShouldBe("no answer to [secret]");
    }

    [Fact]
    public void Bodies_of_requests_for_tokens_are_left_out()
    {
        var stream = new MemoryStream();
        using (var trace = new HarTrace(stream, new Redactor(), "0.1"))
        {
            using var message = new HttpResponseMessage(HttpStatusCode.OK);
            var request = new Request(HttpMethod.Post, new Uri("https://login.example/token"), [], [new("client_secret", "not known yet")]);
            using var answer = new Answer(200, message.Headers, null, PageBuffer.Of("""{"access_token":"fresh"}"""u8), TimeSpan.Zero);
            trace.Answered(request, answer, DateTimeOffset.UnixEpoch);
        }

        var text = System.Text.Encoding.UTF8.GetString(stream.ToArray());
        text.ShouldNotContain("fresh");
        text.ShouldNotContain("not known yet");
        text.ShouldContain("left out, since it holds secrets");
    }
}

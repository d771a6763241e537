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

    [Theory]
    [InlineData(200, """{"access_token":"new-value","refresh_token":"new-value","data":{"session":"new-value"},"token_type":"Bearer","expires_in":3600}""", """token_type\":\"Bearer\",\"expires_in\":3600""")]
    [InlineData(200, "access_token=new-value&expires=3600", "omitted, since it contains secrets")]
    [InlineData(400, "Bad Request", "Bad Request")]
    [InlineData(400, """{"error":"invalid_request","error_description":"grant_type twice"}""", "grant_type twice")]
    public void Of_a_request_for_tokens_everything_is_shown_but_its_secrets(int status, string body, string shown)
    {
        var assertion = $"{Part("""{"alg":"RS256","kid":"k1"}""")}.{Part("""{"aud":"https://login.example","iss":"me"}""")}.c2lnbmVk";
        var stream = new MemoryStream();
        using (var trace = new HarTrace(stream, new Redactor(), "0.1"))
        {
            using var message = new HttpResponseMessage((HttpStatusCode)status);
            KeyValuePair<string, string>[] form =
            [
                new("grant_type", "client_credentials"), new("scope", "depots.read"), new("client_assertion", assertion),
                .. new[] { "client_secret", "password", "refresh_token", "code", "code_verifier", "device_code", "assertion" }.Select(name => KeyValuePair.Create(name, "not known yet")),
            ];
            using var answer = new Answer(status, message.Headers, null, PageBuffer.Of(System.Text.Encoding.UTF8.GetBytes(body)), TimeSpan.Zero);
            trace.Answered(new Request(HttpMethod.Post, new Uri("https://login.example/token"), [], form), answer, DateTimeOffset.UnixEpoch);
        }

        var text = System.Text.Encoding.UTF8.GetString(stream.ToArray());
        text.ShouldNotContain("new-value");
        text.ShouldNotContain("not known yet");
        text.ShouldNotContain("c2lnbmVk");
        text.ShouldContain(shown);
        var entry = JsonDocument.Parse(text).RootElement.GetProperty("log").GetProperty("entries")[0];
        var parameters = entry.GetProperty("request").GetProperty("postData").GetProperty("params").EnumerateArray().ToDictionary(pair => pair.GetProperty("name").GetString()!, pair => pair.GetProperty("value").GetString());
        parameters["grant_type"].ShouldBe("client_credentials");
        parameters["scope"].ShouldBe("depots.read");
        parameters["client_secret"].ShouldBe(Redactor.Mask);
        parameters["client_assertion"].ShouldBe("""{"alg":"RS256","kid":"k1"}.{"aud":"https://login.example","iss":"me"}.[secret]""");
    }

    private static string Part(string json) => System.Buffers.Text.Base64Url.EncodeToString(System.Text.Encoding.UTF8.GetBytes(json));
}

using System.Net;
using System.Net.Sockets;
using System.Text;
using Cursiva.Core.Identity;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Tests.Identity;

/// <summary>The answer of a browser is listened for wherever on the loopback address it is registered (RFC 8252 section 7.3).</summary>
public sealed class LoopbackListenerTests
{
    private static readonly HttpClient s_browser = new() { Timeout = TimeSpan.FromSeconds(10) };

    [Theory]
    [InlineData(null, "http://127.0.0.1:PORT/", "127.0.0.1")]
    [InlineData("http://127.0.0.1/signed/in", "http://127.0.0.1:PORT/signed/in", "127.0.0.1")]
    [InlineData("http://[::1]/in", "http://[::1]:PORT/in", "[::1]")]
    [InlineData("http://localhost", "http://localhost:PORT", "127.0.0.1")]
    [InlineData("http://localhost", "http://localhost:PORT", "[::1]")]
    public async Task A_redirect_without_a_port_is_listened_for_on_any_free_one(string? asked, string address, string host)
    {
        using var listener = LoopbackListener.Start(asked is null ? null : new Uri(asked));
        listener.Address.OriginalString.ShouldBe(address.Replace("PORT", listener.Address.Port.ToString()));
        listener.Address.Port.ShouldBeGreaterThan(1023);
        var waiting = listener.WaitAsync("s", TestContext.Current.CancellationToken);
        (await s_browser.GetStringAsync($"http://{host}:{listener.Address.Port}{listener.Address.AbsolutePath}?code=c&state=s")).ShouldContain("The answer has arrived");
        (await waiting).ShouldEndWith("?code=c&state=s");
    }

    [Fact]
    public async Task Whoever_else_knocks_gets_an_answer_and_keeps_nobody_waiting()
    {
        using var listener = LoopbackListener.Start(new Uri("http://127.0.0.1/in"));
        var waiting = listener.WaitAsync("s", TestContext.Current.CancellationToken);
        using var silent = new TcpClient();
        await silent.ConnectAsync(IPAddress.Loopback, listener.Address.Port);
        var at = listener.Address.GetLeftPart(UriPartial.Authority);
        (await s_browser.GetAsync(at + "/favicon.ico")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await s_browser.GetAsync(at + "/in")).StatusCode.ShouldBe(HttpStatusCode.NotFound);
        (await s_browser.GetAsync(at + "/in?code=x&state=other")).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await s_browser.PostAsync(at + "/in?code=x&state=s", null)).StatusCode.ShouldBe(HttpStatusCode.BadRequest);
        (await RawAsync(listener.Address.Port, "GET http://evil.example/in?code=x&state=s HTTP/1.1\r\n\r\n")).ShouldStartWith("HTTP/1.1 400");
        (await RawAsync(listener.Address.Port, "GET @evil.example/in?code=x&state=s HTTP/1.1\r\n\r\n")).ShouldStartWith("HTTP/1.1 400");
        waiting.IsCompleted.ShouldBeFalse();
        await s_browser.GetStringAsync(at + "/in?state=s&code=mine");
        (await waiting).ShouldBe(at + "/in?state=s&code=mine");
    }

    [Fact]
    public async Task A_stop_ends_the_wait()
    {
        using var listener = LoopbackListener.Start(null);
        using var stop = new CancellationTokenSource();
        var waiting = listener.WaitAsync("s", stop.Token);
        using var silent = new TcpClient();
        await silent.ConnectAsync(IPAddress.Loopback, listener.Address.Port);
        await stop.CancelAsync();
        await Should.ThrowAsync<OperationCanceledException>(() => waiting);
    }

    [Fact]
    public void A_port_that_is_taken_is_told_as_that_and_an_address_of_another_machine_too()
    {
        using var other = new TcpListener(IPAddress.Loopback, 0);
        other.Start();
        var taken = Should.Throw<RefusedException>(() => LoopbackListener.Start(new Uri($"http://{other.LocalEndpoint}/in"))).Refusal;
        taken.Cause.ShouldBe("another program, or another sign-in, uses the port");
        taken.NextStep!.ShouldContain("--paste");
    }

    [Fact]
    public void A_privileged_port_is_told_as_that()
    {
        var refusal = LoopbackListener.Refuse(new Uri("http://127.0.0.1:80/in"), new SocketException((int)SocketError.AccessDenied)).Refusal;
        refusal.What.ShouldContain("http://127.0.0.1:80/in");
        refusal.Cause.ShouldBe("port 80 is privileged: only root may listen on ports below 1024");
    }

    [Fact]
    public void An_answer_that_is_pasted_needs_no_listener()
    {
        LoopbackListener.FreeAddress(new Uri("https://jobs.brackwater.example/in")).OriginalString.ShouldBe("https://jobs.brackwater.example/in");
        LoopbackListener.FreeAddress(new Uri("http://127.0.0.1:8123/in")).OriginalString.ShouldBe("http://127.0.0.1:8123/in");
        LoopbackListener.FreeAddress(new Uri("http://127.0.0.1/in")).Port.ShouldBeGreaterThan(1023);
    }

    private static async Task<string> RawAsync(int port, string request)
    {
        using var client = new TcpClient();
        await client.ConnectAsync(IPAddress.Loopback, port);
        var stream = client.GetStream();
        await stream.WriteAsync(Encoding.ASCII.GetBytes(request));
        using var reader = new StreamReader(stream);
        return await reader.ReadToEndAsync();
    }
}

using System.Net;
using System.Text;
using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>
/// An authorization server and an API in one, on a free loopback port. It refuses as it is told to, in one answer for all, or lets in
/// whatever proof it has been told to take.
/// </summary>
internal sealed class RefusingServer : IDisposable
{
    private readonly HttpListener _listener;
    private readonly CancellationTokenSource _ending = new();
    private readonly Task _answering;
    private int _tokens;

    public RefusingServer()
    {
        (_listener, Address) = Listen();
        _answering = Task.Run(AnswerAsync);
    }

    public string Address { get; }

    /// <summary>The status of a refusal; null lets everybody in.</summary>
    public int? Refuses { get; set; }

    /// <summary>Whether the API refuses, and not the token endpoint.</summary>
    public bool AtTheApi { get; set; }

    public string Answer { get; set; } = "";

    /// <summary>What a request must have in its body or headers to be let in while the server refuses; null for nothing that helps.</summary>
    public string? LetsIn { get; set; }

    /// <summary>How long a token, and an answer of an address that ends with <c>/slow</c>, is on its way.</summary>
    public TimeSpan Slow { get; set; }

    /// <summary>The requests for tokens, and those of <c>/slow</c>, that came.</summary>
    public int SlowRequests { get; private set; }

    /// <summary>Does as a person's browser would that is sent back at once.</summary>
    public static async Task<string> BrowseAsync(string address)
    {
        var query = System.Web.HttpUtility.ParseQueryString(new Uri(address).Query);
        using var http = new HttpClient();
        return await http.GetStringAsync($"{query["redirect_uri"]}?code=good&state={query["state"]}");
    }

    // The listener takes no port of its own, and another process may take the free one first.
    private static (HttpListener Listener, string Address) Listen()
    {
        for (var attempt = 1; ; attempt++)
        {
            string address;
            using (var free = new System.Net.Sockets.TcpListener(IPAddress.Loopback, 0))
            {
                free.Start();
                address = $"http://127.0.0.1:{((IPEndPoint)free.LocalEndpoint).Port}";
            }

            var listener = new HttpListener();
            listener.Prefixes.Add(address + "/");
            try
            {
                listener.Start();
                return (listener, address);
            }
            catch (HttpListenerException) when (attempt < 20)
            {
                listener.Close();
            }
        }
    }

    public void Dispose()
    {
        _ending.Cancel();
        _listener.Close();
        _answering.Wait(TimeSpan.FromSeconds(10)).ShouldBeTrue("the server did not end");
        _ending.Dispose();
    }

    private async Task AnswerAsync()
    {
        while (true)
        {
            HttpListenerContext context;
            try
            {
                context = await _listener.GetContextAsync();
            }
            catch (Exception error) when (error is HttpListenerException or ObjectDisposedException)
            {
                return;
            }

            try
            {
                await AnswerAsync(context);
            }
            catch (Exception error) when (error is HttpListenerException or OperationCanceledException or ObjectDisposedException)
            {
                // Whoever asked is gone, or the server is.
            }
        }
    }

    private async Task AnswerAsync(HttpListenerContext context)
    {
        var body = await new StreamReader(context.Request.InputStream).ReadToEndAsync();
        var isToken = context.Request.Url!.AbsolutePath == "/token";
        if (isToken || context.Request.Url.AbsolutePath.EndsWith("/slow", StringComparison.Ordinal))
        {
            SlowRequests++;
            await Task.Delay(Slow, _ending.Token);
        }

        var shown = $"{WebUtility.UrlDecode(body)}\n{context.Request.Headers}\n{Basic(context.Request.Headers["Authorization"])}";
        if (Refuses is { } status && isToken != AtTheApi && !(LetsIn is { } good && shown.Contains(good, StringComparison.Ordinal)))
            await WriteAsync(context, status, Answer);
        else
            await WriteAsync(context, 200, isToken ? JsonSerializer.Serialize(new { access_token = Token(), token_type = "Bearer", expires_in = 3600, refresh_token = $"refresh-{++_tokens}" }) : """{"items":[{"id":1}]}""");
    }

    // A token of an application, or of a person; nobody checks its signature.
    private string Token() => $"{Encode("""{"alg":"RS256","typ":"JWT"}""")}.{Encode($$"""{"iss":"{{Address}}","aud":"{{Address}}","sub":"desk","scope":"depots.read","exp":{{DateTimeOffset.UtcNow.AddHours(1).ToUnixTimeSeconds()}}}""")}.c2lnbmF0dXJl";

    private static string Encode(string text) => System.Buffers.Text.Base64Url.EncodeToString(Encoding.UTF8.GetBytes(text));

    private static string Basic(string? header) =>
        header?.StartsWith("Basic ", StringComparison.Ordinal) == true ? WebUtility.UrlDecode(Encoding.UTF8.GetString(Convert.FromBase64String(header[6..]))) + "\n" : "";

    private static async Task WriteAsync(HttpListenerContext context, int status, string text)
    {
        var bytes = Encoding.UTF8.GetBytes(text);
        context.Response.StatusCode = status;
        context.Response.ContentType = text.StartsWith('<') ? "text/html" : "application/json";
        context.Response.ContentLength64 = bytes.Length;
        await context.Response.OutputStream.WriteAsync(bytes);
        context.Response.Close();
    }
}

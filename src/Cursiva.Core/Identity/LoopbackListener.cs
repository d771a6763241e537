using System.Net;
using System.Net.Sockets;
using System.Text;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>Listens on the loopback address for the answer that a browser brings (RFC 8252 section 7.3).</summary>
internal sealed class LoopbackListener : IDisposable
{
    private const string Page = """
        <!doctype html><html lang="en"><meta charset="utf-8"><title>Cursiva</title>
        <body style="font: 17px/1.5 system-ui, sans-serif; margin: 15vh auto; max-width: 32em; padding: 0 1em">
        <h1 style="font-size: 1.3em">The answer has arrived.</h1><p>This window can be closed. The terminal tells how the sign-in went.</p></body></html>
        """;

    private const string OtherPage = """
        <!doctype html><html lang="en"><meta charset="utf-8"><title>Cursiva</title>
        <body style="font: 17px/1.5 system-ui, sans-serif; margin: 15vh auto; max-width: 32em; padding: 0 1em">
        <h1 style="font-size: 1.3em">This answer belongs to another sign-in.</h1><p>Use the address that the terminal shows; it still waits for its answer.</p></body></html>
        """;

    private readonly HttpListener _listener;

    private LoopbackListener(HttpListener listener, Uri address)
    {
        _listener = listener;
        Address = address;
    }

    /// <summary>The redirect URI.</summary>
    public Uri Address { get; }

    /// <summary>Starts to listen.</summary>
    /// <param name="asked">The address that is registered; null for a free port.</param>
    /// <exception cref="RefusedException">Another program listens there already.</exception>
    public static LoopbackListener Start(Uri? asked)
    {
        var address = asked ?? FreeAddress();
        var listener = new HttpListener();
        listener.Prefixes.Add(address.GetLeftPart(UriPartial.Authority) + "/");
        try
        {
            listener.Start();
        }
        catch (HttpListenerException error)
        {
            throw new RefusedException(new Refusal(Outcome.SignInRefused, $"the answer cannot be listened for at {address}: {error.Message}")
            {
                Cause = "another program, or another sign-in, uses the port",
                NextStep = "end it and try again, or use --paste",
            }, error);
        }

        return new LoopbackListener(listener, address);
    }

    /// <summary>An address on a port that is free now.</summary>
    public static Uri FreeAddress()
    {
        using var socket = new TcpListener(IPAddress.Loopback, 0);
        socket.Start();
        return new Uri($"http://127.0.0.1:{((IPEndPoint)socket.LocalEndpoint).Port}/");
    }

    /// <summary>Waits for the request that is the answer, and gives its address. Anybody on this machine can knock: others are told so.</summary>
    /// <param name="state">The state that the answer has (RFC 6749 section 4.1.2).</param>
    public async Task<string> WaitAsync(string state, CancellationToken cancel)
    {
        while (true)
        {
            var context = await _listener.GetContextAsync().WaitAsync(cancel);
            var url = context.Request.Url!;
            var looksLikeOne = url.AbsolutePath == Address.AbsolutePath && (url.Query.Contains("code=", StringComparison.Ordinal) || url.Query.Contains("error=", StringComparison.Ordinal));
            var isAnswer = looksLikeOne && context.Request.QueryString["state"] == state;
            context.Response.StatusCode = isAnswer ? 200 : looksLikeOne ? 400 : 404;
            context.Response.ContentType = "text/html; charset=utf-8";
            try
            {
                await using var output = context.Response.OutputStream;
                await output.WriteAsync(Encoding.UTF8.GetBytes(isAnswer ? Page : looksLikeOne ? OtherPage : ""), cancel);
            }
            catch (Exception error) when (error is IOException or HttpListenerException or ObjectDisposedException)
            {
                // Whoever asked did not wait for what we say; an answer is an answer all the same.
            }

            if (isAnswer)
                return url.AbsoluteUri;
        }
    }

    public void Dispose() => _listener.Close();
}

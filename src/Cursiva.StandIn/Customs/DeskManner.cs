namespace Cursiva.StandIn.Customs;

/// <summary>
/// How the customs desk lies: <c>PUT /customs/manner</c> with names, one a line, from then on. <c>wrong-padding</c>, <c>truncated</c> and
/// <c>old-key</c> spoil what it encrypts; <c>other-key</c> signs with a key that is not published; <c>changed</c> changes what was signed;
/// <c>replay</c> gives the first signed answer again; <c>clear</c> answers in the clear; <c>key-ended</c> ends every session key;
/// <c>spoilt-key</c> hands out a session key that does not open; <c>other-environment</c> opens no sign-in.
/// </summary>
public sealed class DeskManner
{
    private volatile HashSet<string> _names = [];

    public void Map(IEndpointRouteBuilder routes) => routes.MapPut("/customs/manner", async context =>
    {
        using var reader = new StreamReader(context.Request.Body);
        _names = [.. (await reader.ReadToEndAsync(context.RequestAborted)).Split(
            '\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)];
        context.Response.StatusCode = 204;
    });

    public bool Is(string name) => _names.Contains(name);
}

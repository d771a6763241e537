using System.Collections.Concurrent;
using System.Text.Json.Nodes;

namespace Cursiva.StandIn.Office;

/// <summary>
/// How the office behaves: <c>PUT /office/manner</c> with names, one a line, from then on. <c>lose-answers</c> does what is asked and cuts
/// the
/// connection instead of answering; <c>lose-one-answer</c> does so once; <c>refuse</c> answers 403; <c>busy</c> answers 503;
/// <c>unique-titles</c> answers 409 where a title is taken; <c>changed-meanwhile</c> answers the first change of each notice with 412.
/// </summary>
public sealed class OfficeManner
{
    private readonly ConcurrentDictionary<string, int> _once = new(StringComparer.Ordinal);
    private volatile HashSet<string> _names = [];

    public void Map(IEndpointRouteBuilder routes) => routes.MapPut("/office/manner", async context =>
    {
        using var reader = new StreamReader(context.Request.Body);
        _names = [.. (await reader.ReadToEndAsync(context.RequestAborted)).Split(
            '\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)];
        _once.Clear();
        context.Response.StatusCode = 204;
    });

    public bool Is(string name) => _names.Contains(name);

    /// <summary>Does something the first time that a manner comes up for a thing.</summary>
    public bool Once(string name, Action what)
    {
        if (!Is(name) || !_once.TryAdd(name, 1))
            return false;
        what();
        return true;
    }

    /// <summary>Lets a request pass that is to change something.</summary>
    /// <returns>Whether it may; otherwise it has been answered.</returns>
    public async Task<bool> PassAsync(HttpContext context)
    {
        if (Is("refuse"))
            await Problem.WriteAsync(context, 403, "not_yours", "this client may not change notices");
        else if (Is("busy"))
            await Problem.WriteAsync(context, 503, "busy", "the office is closed");
        else
            return true;
        return false;
    }

    /// <summary>Answers what was done, or is never heard of again.</summary>
    public async Task AnswerAsync(HttpContext context, int status, JsonObject? content)
    {
        if (Is("lose-answers") || Once("lose-one-answer", () => { }))
        {
            context.Abort();
            return;
        }

        context.Response.StatusCode = status;
        if (content?["version"] is { } version)
            context.Response.Headers.ETag = $"\"v{version}\"";
        if (content is not null)
            await JsonAnswer.WriteAsync(context, content);
    }
}

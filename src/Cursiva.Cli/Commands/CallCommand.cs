using System.CommandLine;
using System.Text;
using System.Text.Unicode;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva call JOB API PATH</c>: one request with an API's identity, headers and limits.</summary>
internal sealed class CallCommand
{
    private const string Nobody = "nobody";

    private readonly CommonOptions _common = new();
    private readonly Argument<string> _api = new("API") { Description = "the API of the job to ask" };
    private readonly Argument<string> _path = new("PATH") { Description = "the path, appended to the API's base; inputs are filled in" };
    private readonly Option<string?> _as = new("--as") { Description = "the identity of the job to ask as, or nobody [otherwise the API's]" };
    private readonly Option<string?> _post = new("--post") { Description = "send a POST with this JSON as its body" };
    private readonly Option<string[]> _header = new("--header") { Description = "NAME=VALUE, a further header; may be repeated", DefaultValueFactory = _ => [] };
    private readonly Option<string?> _to = new("--to") { Description = "write the body, as it came, into this file" };
    private readonly Option<string?> _trace = TraceFile.Option();

    public Command Build()
    {
        var command = new Command("call", "Make one request with an API's identity, headers and limits, and print the answer.")
        {
            _common.Job, _api, _path, _as, _post, _header, _common.Value, _to, _trace, _common.Input, _common.InputsFrom, _common.EnvFile, _common.State, _common.Log,
        };
        command.Validators.Add(result =>
        {
            foreach (var pair in result.GetValue(_header)!.Where(pair => pair.IndexOf('=', StringComparison.Ordinal) < 1))
                result.AddError($"--header '{pair}' is not NAME=VALUE");
        });
        command.SetWork(_common, ExecuteAsync);
        return command;
    }

    private async Task<Outcome> ExecuteAsync(ParseResult parsed, Workplace place, CancellationToken cancel)
    {
        var job = place.ReadJob(parsed.GetValue(_common.Job)!);
        var api = ApiOf(job, parsed.GetValue(_api)!, place);
        var services = place.Open(job);
        using var trace = TraceFile.Open(parsed.GetValue(_trace), place.Redactor);
        services.Senders.Trace = trace;
        using var signIns = new SignIns(services);
        await using var client = await ApiClients.OpenAsync(api, IdentityOf(job, api, parsed.GetValue(_as), place), signIns, services, cancel);
        var request = Request(parsed, job, client) with { Sees = answer => Show(parsed, place, answer) };
        using var good = await client.SendAsync(request, cancel);
        return Outcome.Done;
    }

    private ApiRequest Request(ParseResult parsed, Job job, ApiClient client)
    {
        var path = PathTemplate.Expand(parsed.GetValue(_path)!, job.Inputs);
        var address = Uri.TryCreate(path, UriKind.Absolute, out var whole) && whole.Scheme is "http" or "https" ? whole : client.Address(path);
        var body = parsed.GetValue(_post);
        return new ApiRequest(body is null ? HttpMethod.Get : HttpMethod.Post, address)
        {
            Body = body is null ? null : Encoding.UTF8.GetBytes(body),
            Headers = [.. parsed.GetValue(_header)!.Select(header => header.Split('=', 2)).Select(pair => KeyValuePair.Create(pair[0], pair[1]))],
            Accept = "application/json, */*;q=0.5",
            Verbatim = parsed.GetValue(_to) is not null,
        };
    }

    private void Show(ParseResult parsed, Workplace place, Answer answer)
    {
        var error = place.Terminal.Error;
        error.WriteLineAsIs($"status {answer.Status}, {SummaryView.Size(answer.Body.Length)} of {(answer.ContentType.Length > 0 ? answer.ContentType : "unnamed content")} in {Durations.ForPeople(answer.Took)}{(Quote.Of(CorrelationId.Of(answer.Headers), place.Redactor) is { } id ? ", " + id : "")}");
        if (parsed.GetValue(_to) is { } file)
            File.WriteAllBytes(file, answer.Body.Content.ToArray());
        else if (Utf8.IsValid(answer.Body.Content))
            Print(place, place.Redactor.Clean(Encoding.UTF8.GetString(answer.Body.Content).TrimEnd()));
        else
            error.WriteLineAsIs("the body is no text; write it into a file with --to FILE");
    }

    // A program gets the body as it is; a person's terminal must not be steered by it.
    private static void Print(Workplace place, string body)
    {
        if (place.Terminal.OutIsTerminal)
            place.Terminal.Out.WriteLinesAsIs(body);
        else
            Console.Out.WriteLine(body);
    }

    private static DeclaredIdentity? IdentityOf(Job job, Api api, string? named, Workplace place) =>
        named == Nobody || (named is null && api.Identity is null) ? null : place.IdentityOf(job, named ?? api.Identity);

    private static Api ApiOf(Job job, string name, Workplace place)
    {
        if (!job.Apis.TryGetValue(name, out var api))
            throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"the job has no api '{name}'") { NextStep = $"name one of {string.Join(", ", job.Apis.Keys)}" });
        if (!job.Strands.Apis.TryGetValue(name, out var make))
            return api;
        place.RequireValues(job, $"api '{name}'");
        return make(place.Values.GetValueOrDefault);
    }
}

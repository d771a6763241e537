using System.CommandLine;
using System.CommandLine.Parsing;
using System.Text;
using System.Text.Unicode;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Apis;
using Cursiva.Core.Drafts;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva call JOB API PATH</c>: one request with an API's identity, headers and limits.</summary>
internal sealed class CallCommand
{
    private readonly CommonOptions _common = new();
    private readonly Argument<string?> _api = new("API")
    {
        Description = "an API of the job; omit it for an address",
        Arity = ArgumentArity.ZeroOrOne,
    };
    private readonly Argument<string?> _path = new("PATH")
    {
        Description = "the path, appended to the API's base; inputs are filled in; omit it for an address",
        Arity = ArgumentArity.ZeroOrOne,
    };
    private readonly Option<string?> _identity = new("--identity")
    {
        Description = "the identity of the job to use [otherwise the API's]",
    };
    private readonly Option<bool> _anonymous = new("--anonymous") { Description = "send the request without signing in" };
    private readonly Option<string?> _method = new("--method") { Description = "the method [GET, or POST if there is a body]" };
    private readonly Option<string[]> _header = new("--header")
    {
        Description = "NAME=VALUE, an additional header; can be repeated",
        DefaultValueFactory = _ => [],
    };
    private readonly CallBody _body = new();
    private readonly CallAnswer _answer = new();
    private readonly AskedOptions _asked = new();
    private readonly Option<string?> _keep = new("--keep")
    {
        Description = "write a job for the address to this file, with secrets named by their sources",
        HelpName = "FILE",
    };
    private readonly Option<bool> _force = new("--force") { Description = "let --keep replace a file" };
    private readonly Option<string?> _trace = TraceFile.Option();

    public CallCommand() => _common.Job.Description = "the job file, NAME.cursiva.yaml; or an address, https://...";

    public Command Build()
    {
        var command = new Command(
            "call", "Make one request with an API's identity, headers and limits, or to an address without a job, and print the answer.")
        {
            _common.Job, _api, _path, _identity, _anonymous, _method, _header, _common.Value, _trace, _common.Input, _common.InputsFrom, _common.EnvFile, _common.State, _common.Log, _keep, _force,
        };
        foreach (var option in _body.Options.Concat(_answer.Options).Concat(_asked.Options))
            command.Add(option);
        command.Validators.Add(_body.Check);
        command.Validators.Add(_answer.Check);
        command.Validators.Add(CheckTarget);
        command.Validators.Add(result =>
        {
            foreach (var pair in result.GetValue(_header)!.Where(pair => pair.IndexOf('=', StringComparison.Ordinal) < 1))
                result.AddError($"--header '{pair}' is not NAME=VALUE");
            if (result.GetValue(_method) is { } method && !Confines.IsHeaderName(method))
                result.AddError($"--method '{method}' is not a method; write GET, POST, PUT, PATCH, DELETE or another one");
            if (result.GetValue(_anonymous) && result.GetValue(_identity) is not null)
                result.AddError("--anonymous and --identity exclude each other");
        });
        command.Executes(_common, ExecuteAsync);
        return command;
    }

    private async Task<Outcome> ExecuteAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        if (AskedAddress.Is(parsed.GetValue(_common.Job)!))
            return await AskAsync(parsed, place, cancel);
        var job = place.ReadJob(parsed.GetValue(_common.Job)!);
        var api = ApiOf(job, parsed.GetValue(_api)!, place);
        var services = await place.OpenAsync(job, cancel);
        using var trace = TraceFile.Open(parsed.GetValue(_trace), place.Redactor);
        services.Senders.Trace = trace;
        using var signIns = new SignIns(services);
        await using var client = await ApiClients.OpenAsync(api, IdentityOf(job, api, parsed, place), signIns, services, cancel);

        var request = await RequestAsync(parsed, job, client, cancel) with { Sees = answer => _answer.Show(parsed, place, answer) };
        using var good = await client.SendAsync(request, cancel);
        return Outcome.Done;
    }

    private void CheckTarget(CommandResult result)
    {
        if (result.GetResult(_common.Job) is not { Tokens: [var target, ..] })
            return;
        var isAddress = AskedAddress.Is(target.Value);
        _asked.Check(result, isAddress);
        if (isAddress && AskedAddress.TryParse(target.Value) is null)
            result.AddError($"'{target.Value}' is not a usable address: write https://HOST/PATH, without a name or password");
        if (isAddress && result.GetValue(_api) is { } api)
            result.AddError($"an address is the only argument, but '{api}' follows it");
        if (!isAddress && result.GetValue(_path) is null)
            result.AddError(
                result.GetValue(_api) is null
                    ? "name an API of the job and a path: cursiva call JOB API PATH; or call an address: cursiva call https://..."
                    : "name a path of the API: cursiva call JOB API PATH");
        if (!isAddress && result.GetValue(_keep) is not null)
            result.AddError("--keep is only for an address; here you already have a job");
        if (result.GetValue(_keep) is not null)
            AskedOptions.CheckHeaders(result, result.GetValue(_header)!);
        if (result.GetValue(_keep) is not null && result.GetValue(_method)?.ToUpperInvariant() is not (null or "GET" or "POST"))
            result.AddError("--keep writes a pull, which must be a GET or a POST");
    }

    // An address without a job. The first answer that is good is what --keep goes by.
    private async Task<Outcome> AskAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var address = AskedAddress.TryParse(parsed.GetValue(_common.Job)!)!;
        var file = parsed.GetValue(_keep) is { } kept ? NewJobFile.At(kept, parsed.GetValue(_force)) : null;
        List<KeyValuePair<string, string>> headers = [.. parsed.GetValue(_header)!.Select(header => header.Split('=', 2)).Select(
            pair => KeyValuePair.Create(pair[0], pair[1]))];
        var signIn = _asked.Read(
            parsed, [.. headers.Where(header => !header.Key.Equals("Content-Type", StringComparison.OrdinalIgnoreCase))]);
        foreach (var secret in address.Secrets)
            place.Redactor.Remember(secret);
        using var trace = TraceFile.Open(parsed.GetValue(_trace), place.Redactor);
        await using var asked = await AskedApi.OpenAsync(
            place,
            AskedJob.Read(AskedJob.Text(address, signIn, ""), Environment.CurrentDirectory, CommandContext.Clock.GetUtcNow()),
            _asked.IsDevice(parsed),
            null,
            trace,
            cancel);
        var rows = "";
        var request = await RequestAsync(
            parsed,
            address.Whole,
            [.. headers.Where(header => header.Key.Equals("Content-Type", StringComparison.OrdinalIgnoreCase))],
            cancel) with
        {
            Sees = answer =>
            {
                _answer.Show(parsed, place, answer);
                rows = AskedJob.RowsOf(answer.Body.Content);
            },
        };
        if (file is not null && request.Body is not null && !IsJson(request.Body))
            throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, "--keep writes a pull, whose body must be JSON, and this body is not")
                {
                    NextStep = "give the body as JSON, or remove --keep; nothing was sent",
                });
        if (file is not null)
            address.CheckValues(request.Body is null ? null : Encoding.UTF8.GetString(request.Body));
        using var good = await AskedRefusal.ExplainAsync(() => asked.Client.SendAsync(request, cancel), asked, signIn, "call", cancel);
        if (file is null)
            return Outcome.Done;
        file.Write(
            new Advice(file.Path, null).Of(
                AskedJob.Text(
                    address.Kept, signIn, rows, request.Method.Method, request.Body is null
                        ? null
                        : Encoding.UTF8.GetString(request.Body))),
            place.Disk);
        place.Terminal.Error.Say(
            $"[green]Written[/] {file.Path}. Check it: cursiva check {ShellWord.Of(file.Path)} --live; it has no paging yet; cursiva draft finds out how the next page is found.");
        return Outcome.Done;
    }

    private static bool IsJson(byte[] body)
    {
        try
        {
            using var document = System.Text.Json.JsonDocument.Parse(body);
            return true;
        }
        catch (System.Text.Json.JsonException)
        {
            return false;
        }
    }

    private async Task<ApiRequest> RequestAsync(ParseResult parsed, Job job, ApiClient client, CancellationToken cancel)
    {
        var path = PathTemplate.Expand(parsed.GetValue(_path)!, job.Inputs, client.TokenFields);
        var address = Uri.TryCreate(path, UriKind.Absolute, out var whole) && whole.Scheme is "http" or "https"
            ? whole
            : client.Address(path);
        return await RequestAsync(
            parsed,
            address,
            [.. parsed.GetValue(_header)!.Select(header => header.Split('=', 2)).Select(pair => KeyValuePair.Create(pair[0], pair[1]))],
            cancel);
    }

    private async Task<ApiRequest> RequestAsync(
        ParseResult parsed, Uri address, List<KeyValuePair<string, string>> headers, CancellationToken cancel)
    {
        var body = await _body.ReadAsync(parsed, cancel);
        var method = new HttpMethod((parsed.GetValue(_method) ?? (body is null ? "GET" : "POST")).ToUpperInvariant());
        var type = headers.FindLast(header => header.Key.Equals("Content-Type", StringComparison.OrdinalIgnoreCase)).Value;
        return new ApiRequest(method, address)
        {
            Body = body?.Content,
            BodyType = type ?? body?.Type ?? "application/json",
            Headers = [.. headers.Where(header => !header.Key.Equals("Content-Type", StringComparison.OrdinalIgnoreCase))],
            Accept = "application/json, */*;q=0.5",
            Verbatim = _answer.IsVerbatim(parsed),

            // RFC 9110 section 9.2.2: what may be sent twice.
            Once = method.Method is not ("GET" or "HEAD" or "OPTIONS" or "PUT" or "DELETE" or "TRACE"),
        };
    }

    private DeclaredIdentity? IdentityOf(Job job, Api api, ParseResult parsed, CommandContext place) =>
        parsed.GetValue(_anonymous) || (parsed.GetValue(_identity) ?? api.Identity) is not { } name ? null : place.IdentityOf(job, name);

    private static Api ApiOf(Job job, string name, CommandContext place)
    {
        if (!job.Apis.TryGetValue(name, out var api))
            throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, $"the job has no api '{name}'")
                {
                    NextStep = $"name one of {string.Join(", ", job.Apis.Keys)}",
                });
        if (!job.Strands.Apis.TryGetValue(name, out var make))
            return api;
        place.RequireValues(job, $"api '{name}'");
        return make(place.Values.GetValueOrDefault);
    }
}

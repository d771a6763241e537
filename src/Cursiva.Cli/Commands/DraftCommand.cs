using System.CommandLine;
using System.CommandLine.Parsing;
using System.Text;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Drafts;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva draft</c>: from an address, or from what was saved of one, to a job.</summary>
internal sealed class DraftCommand
{
    private const int MostRequests = 12;

    private readonly CommonOptions _common = new();
    private readonly Argument<string> _source = new("SOURCE")
    {
        Description = "the address of a listing; or, with no network, a saved answer, a recording (HAR), or a folder of answers",
    };
    private readonly Option<string?> _out = new("--out")
    {
        Description = "the job file to write [NAME.cursiva.yaml, of the listing's name]",
        HelpName = "FILE",
    };
    private readonly Option<bool> _force = new("--force") { Description = "replace the file if it exists" };
    private readonly Option<int> _requests = new("--requests")
    {
        Description = "the most requests to the API, 1 to 100",
        DefaultValueFactory = _ => MostRequests,
    };
    private readonly Option<string?> _body = new("--body")
    {
        Description = "the JSON body of a listing that needs POST",
        HelpName = "JSON",
    };
    private readonly Option<string[]> _header = new("--header")
    {
        Description = "NAME=VALUE, an additional header; can be repeated",
        DefaultValueFactory = _ => [],
    };
    private readonly Option<string?> _address = new("--address")
    {
        Description = "for a saved answer: its address; for a recording: the address of the listing",
        HelpName = "URL",
    };
    private readonly Option<string?> _description = new("--description")
    {
        Description = "an OpenAPI 3 description of the API: alone, it lists the operations that page; with --operation, it drafts one",
        HelpName = "FILE",
    };
    private readonly Option<string?> _operation = new("--operation")
    {
        Description = "the operation of the description to draft: its id, or its path",
        HelpName = "NAME",
    };
    private readonly Option<bool> _columns = new("--columns")
    {
        Description = "SOURCE is a job: add the members of landed rows that a pull's columns lack",
    };
    private readonly Option<string?> _pull = new("--pull")
    {
        Description = "with --columns: the pull [the only one that declares columns, or the only one]",
        HelpName = "NAME",
    };
    private readonly Option<string?> _trace = TraceFile.Option();
    private readonly AskedOptions _asked = new();

    public Command Build()
    {
        _source.Arity = ArgumentArity.ZeroOrOne;
        var command = new Command(
            "draft", "Write a job from an address: fetch a page or two, find rows, paging, key and types, and give the evidence for each.")
        {
            _source, _out, _force, _requests, _body, _header, _address, _description, _operation, _columns, _pull, _trace, _common.EnvFile, _common.State, _common.Log, _common.Format,
        };
        foreach (var option in _asked.Options)
            command.Add(option);
        command.Validators.Add(Check);
        command.Executes(_common, ExecuteAsync);
        return command;
    }

    private void Check(CommandResult result)
    {
        var source = result.GetValue(_source);
        var isAddress = source is not null && AskedAddress.Is(source);
        if (result.GetValue(_columns) && (source is null || isAddress))
            result.AddError("--columns works on a job: cursiva draft --columns JOB --pull NAME");
        if (result.GetValue(_pull) is not null && !result.GetValue(_columns))
            result.AddError("--pull is only for --columns");
        if (source is null && result.GetValue(_description) is null)
            result.AddError(
                "name what to draft from: an address, a saved answer, a recording or a folder of answers; or an API's description with --description");
        if (isAddress && AskedAddress.TryParse(source!) is null)
            result.AddError($"'{source}' is not a usable address: write https://HOST/PATH, without a name or password");
        if (result.GetValue(_address) is { } address && AskedAddress.TryParse(address) is null)
            result.AddError($"--address '{address}' is not an address: https://HOST/PATH");
        if (isAddress && result.GetValue(_address) is not null)
            result.AddError("--address says where a saved answer came from; remove it here");
        if (result.GetResult(_requests) is { Implicit: false } && result.GetValue(_requests) is < 1 or > 100)
            result.AddError("--requests must be 1 to 100");
        if (result.GetValue(_body) is { } body && !IsJson(body))
            result.AddError("--body must be JSON");
        foreach (var pair in result.GetValue(_header)!.Where(pair => pair.IndexOf('=', StringComparison.Ordinal) < 1))
            result.AddError($"--header '{pair}' is not NAME=VALUE");
        _asked.Check(result, isAddress: true);
        AskedOptions.CheckHeaders(result, result.GetValue(_header)!);
    }

    private async Task<Outcome> ExecuteAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        if (parsed.GetValue(_columns))
            return await ColumnsAsync(parsed, place, cancel);
        List<KeyValuePair<string, string>> headers = [.. parsed.GetValue(_header)!.Select(header => header.Split('=', 2)).Select(
            pair => KeyValuePair.Create(pair[0], pair[1]))];
        var signIn = _asked.Read(parsed, headers);
        var description = parsed.GetValue(_description) is { } path ? ApiDescription.Read(path) : null;
        if (parsed.GetValue(_source) is null && description is not null && parsed.GetValue(_operation) is null)
        {
            DraftView.Show(place.Terminal, place.Json, description);
            return Outcome.Done;
        }

        var source = parsed.GetValue(_source) is { } text && !AskedAddress.Is(text)
            ? DraftSource.Open(text, parsed.GetValue(_address), place.Redactor)
            : null;
        var operation = parsed.GetValue(_operation) is { } name && description is not null ? description.Find(name) : null;
        var address = source?.Address ?? AskedAddress.TryParse(parsed.GetValue(_source) ?? operation!.Address(description!))!;
        var file = NewJobFile.At(parsed.GetValue(_out) ?? address.Name + JobReader.Suffix, parsed.GetValue(_force));
        foreach (var secret in address.Secrets)
            place.Redactor.Remember(secret);
        using var trace = TraceFile.Open(parsed.GetValue(_trace), place.Redactor);
        var order = new DraftOrder(address, signIn, file.Path, typeof(DraftCommand).Assembly.GetName().Version!.ToString(2))
        {
            Body = parsed.GetValue(_body) ?? source?.Body,
            MostRequests = source is null ? parsed.GetValue(_requests) : int.MaxValue,
            IsRecorded = source is not null,
            Parameters = (operation ?? description?.At(address))?.Parameters ?? [],
            Remarks = source?.Remarks ?? [],
        };
        await using var asked = await AskedApi.OpenAsync(
            place,
            AskedJob.Read(AskedJob.Text(address, order.AsksAs, ""), Environment.CurrentDirectory, CommandContext.Clock.GetUtcNow()),
            source is null && _asked.IsDevice(parsed),
            source?.Answers,
            trace,
            cancel);
        var drafting = new Drafting(order, asked.Client, asked.Services.Secrets, asked.Job.Folder, CommandContext.Clock);
        var drafted = await AskedRefusal.ExplainAsync(() => drafting.DraftAsync(cancel), asked, signIn, "draft", cancel);
        file.Write(drafted.Text, place.Disk);
        DraftView.Show(place.Terminal, place.Json, drafted, file.Path);
        return Outcome.Done;
    }

    private async Task<Outcome> ColumnsAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var path = parsed.GetValue(_source)!;
        var job = JobReader.Read(path, new GivenInputs([], [], place.Environment), CommandContext.Clock.GetUtcNow());
        var name = parsed.GetValue(_pull) ?? Only(job);
        var update = await ShapeCommand.WithRowsAsync(
            path, job, name, place, rows => ColumnsUpdate.Of(path, job.Pulls.First(pull => pull.Name == name), rows, cancel), cancel);
        JobReader.ReadText(update.Text, path, job.Folder, new GivenInputs([], [], place.Environment), CommandContext.Clock.GetUtcNow());
        if (update.Added.Count > 0)
            WholeFile.Write(place.Disk, Path.GetFullPath(path), Encoding.UTF8.GetBytes(update.Text), shared: true);
        DraftView.Show(place.Terminal, place.Json, update, path, name);
        return Outcome.Done;
    }

    private static string Only(Job job) =>
        (job.Pulls.Count == 1 ? job.Pulls : [.. job.Pulls.Where(pull => pull.Columns.Count > 0)]) is [var only] ? only.Name
            : throw new RefusedException(
                new Refusal(Outcome.WrongCommandLine, "the job has several pulls, and none is named")
                {
                    NextStep = $"add --pull with one of {string.Join(", ", job.Pulls.Select(pull => pull.Name))}",
                });

    private static bool IsJson(string text)
    {
        try
        {
            using var document = System.Text.Json.JsonDocument.Parse(text);
            return true;
        }
        catch (System.Text.Json.JsonException)
        {
            return false;
        }
    }
}

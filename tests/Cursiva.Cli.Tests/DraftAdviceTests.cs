using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>The commands that drafts, single calls, shapes and rehearsals tell: each is run as printed, and leads on.</summary>
public sealed class DraftAdviceTests : IAsyncLifetime
{
    private readonly TemporaryFolder _folder = new();
    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "300");

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        _folder.Dispose();
        return ValueTask.CompletedTask;
    }

    private string SignIn => $" --token-endpoint {_cloud.Address}/oauth2/token --client-id brackwater-demo --secret env:BRACKWATER_SECRET";

    private string Consignments => _cloud.Address + "/v2/consignments";

    [Fact]
    public async Task A_draft_says_what_to_do_with_it_and_its_folder_may_have_spaces()
    {
        (await Advised.RunAsync($"cursiva draft {Consignments} --out 'a night.cursiva.yaml'{SignIn}", _folder.Path, Environment)).ShouldEndWith(2).Error.ShouldContain("'a night.cursiva.yaml' does not name a job");
        Directory.CreateDirectory(_folder["a folder"]);
        var drafted = await DoneAsync($"cursiva draft {Consignments} --out 'a folder/night.cursiva.yaml'{SignIn}");
        await DoneAsync(new Advised("DraftView.cs", " is written, after {", "Next: cursiva check {").CommandIn(drafted.Out));
        await DoneAsync(new Advised("DraftText.cs", "", "Change what you know better, then run: cursiva check").CommandIn(Text("a folder/night.cursiva.yaml")));
        await DoneAsync(new Advised("DraftText.cs", "", ", cursiva run").CommandIn(Text("a folder/night.cursiva.yaml")));
        await DoneAsync(new Advised("DraftView.cs", " is written, after {", ", then cursiva run {").CommandIn(drafted.Out));
        Directory.GetFiles(_folder["a folder/reports"]).ShouldNotBeEmpty();
    }

    [Fact]
    public async Task What_may_be_pulled_for_each_row_is_tried_by_the_command_in_the_draft()
    {
        // Rows with a link, and with the id of something else that has a listing.
        File.WriteAllText(_folder["rows.json"], JsonSerializer.Serialize(new { items = Enumerable.Range(1, 3).Select(i => new { id = i, depot_id = $"D{i:D3}", self = $"{_cloud.Address}/v2/depots?of={i}" }) }));
        await DoneAsync($"cursiva draft rows.json --address {_cloud.Address}/v2/rows --out rows.cursiva.yaml{SignIn}", 0, 2);
        var text = Text("rows.cursiva.yaml");
        var tried = text.Split('\n').Where(line => line.Contains("try it with: ")).Select(line => new Advised("DraftText.cs", "", "cursiva call").CommandIn(line)).ToList();
        tried.Count.ShouldBe(2, text);

        // The link is there; the other one is a guess, and trying it tells that there is nothing.
        (await DoneAsync(tried.Single(command => command.Contains("of=1")))).Out.ShouldContain("Northquay");
        (await DoneAsync(tried.Single(command => command.EndsWith("/depots/D001", StringComparison.Ordinal)), 5)).Error.ShouldContain("status 404");
    }

    [Fact]
    public async Task A_probe_in_a_draft_is_what_the_check_asks()
    {
        await DoneAsync($"cursiva draft {_cloud.Address}/v2/depots --out depots.cursiva.yaml{SignIn}");
        var command = new Advised("DraftText.cs", "", "one cheap request, for cursiva check").CommandIn(Text("depots.cursiva.yaml"));
        (await DoneAsync(command)).Out.ShouldContain("probe");
    }

    [Fact]
    public async Task A_person_signs_in_for_a_drafted_job_by_the_command_in_it()
    {
        using var open = await StandIn.StartAsync();
        using var job = new SignInJob(open.Address, "grant: none");
        (await job.BrowseAsync(open.BrowseAsync, ["draft", open.Address + "/v2/depots", "--issuer", open.Address, "--client-id", "brackwater-person", "--device", "--out", "depots.cursiva.yaml"])).ShouldEndWith(0);
        var command = new Advised("AskedSignIn.cs", "", "a person signs in once: cursiva sign-in").CommandIn(File.ReadAllText(job["depots.cursiva.yaml"]));
        (await job.BrowseAsync(open.BrowseAsync, [.. command.Split(' ').Skip(1)])).ShouldEndWith(0);
        (await job.DoAsync(["run", "depots.cursiva.yaml"])).ShouldEndWith(0);
    }

    [Theory]
    [InlineData("Shape.cs", "is neither JSON nor JSON lines", "use an unchanged answer of the API, for instance from cursiva call", "shape page.html")]
    [InlineData("Drafting.cs", "the answer is neither JSON, JSON lines nor CSV{", "save an unchanged answer of the API, for instance with cursiva call", "draft words.json")]
    [InlineData("Drafting.cs", "the answer has no rows", "look at the answer: cursiva call URL --to FILE, then cursiva shape FILE", "draft text.json")]
    [InlineData("DraftSource.cs", "has no file", "save answers into it, for instance with cursiva call", "draft empty")]
    [InlineData("DraftSource.cs", "has no bodies", "or record with cursiva call", "draft bare.har")]
    public async Task What_is_no_answer_of_an_API_is_replaced_by_one_that_the_command_saves(string file, string what, string step, string line)
    {
        File.WriteAllText(_folder["page.html"], "<html></html>");
        File.WriteAllText(_folder["words.json"], "{ not json");
        File.WriteAllText(_folder["text.json"], "\"a\"");
        Directory.CreateDirectory(_folder["empty"]);
        File.WriteAllText(_folder["bare.har"], """{"log":{"version":"1.2","creator":{"name":"x","version":"1"},"entries":[{"request":{"method":"GET","url":"URL","headers":[]},"response":{"status":200,"headers":[],"content":{"mimeType":"application/json"}}}]}}""".Replace("URL", Consignments));
        var refused = await Advised.RunAsync("cursiva " + line, _folder.Path, Environment);
        refused.Code.ShouldBeOneOf(2, 5);
        var commands = new Advised(file, what, step).CommandsIn(refused.Error);
        var saved = line.Split(' ')[1] == "empty" ? "empty/saved.json" : commands[0].Contains("--trace") ? "saved.har" : "saved.json";
        await DoneAsync(commands[0].Replace("URL", Consignments).Replace("FILE", saved) + SignIn);
        if (commands.Count > 1)
            (await DoneAsync(commands[1].Replace("FILE", saved))).Out.ShouldContain("member");
        await DoneAsync("cursiva " + line.Replace(line.Split(' ')[1], saved == "empty/saved.json" ? "empty" : saved));
    }

    [Fact]
    public async Task An_address_that_answers_with_something_else_is_looked_at_by_the_command()
    {
        var refused = (await Advised.RunAsync($"cursiva draft {_cloud.Address}/v2/odd/not-json{SignIn}", _folder.Path, Environment)).ShouldEndWith(5);
        (await DoneAsync(new Advised("Drafting.cs", "the answer is neither JSON, JSON lines nor CSV{", "look at it: cursiva call").CommandIn(refused.Error) + SignIn)).Out.ShouldContain("\"id\":2,}");
    }

    [Fact]
    public async Task A_recording_leads_to_its_other_listings_and_to_the_check_of_its_second_page()
    {
        using var job = new Job(_cloud.Address, "a: { get: /consignments, rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }\nb: { get: /depots, rows: /items, paging: { next-link: /links/next } }");
        (await job.RunAsync("--trace", _folder["all.har"])).ShouldEndWith(0);
        var drafted = await DoneAsync("cursiva draft all.har --out first.cursiva.yaml");
        await DoneAsync(new Advised("DraftSource.cs", "The recording also has {", " rows): cursiva draft {").CommandIn(Text("first.cursiva.yaml")) + " --out second.cursiva.yaml");
        Text("second.cursiva.yaml").ShouldContain("/depots");

        // One saved page tells where the next one is, and nothing proves it but the API.
        await DoneAsync($"cursiva call {_cloud.Address}/v2/depots?size=5 --to saved.json{SignIn}");
        await DoneAsync($"cursiva draft saved.json --address {_cloud.Address}/v2/depots --out third.cursiva.yaml{SignIn}");
        await DoneAsync(new Advised("Drafting.cs", "the recording has no second page to confirm it", "; the recording has no second page to confirm it: cursiva check").CommandIn(Text("third.cursiva.yaml")));
    }

    [Fact]
    public async Task Listings_of_a_description_are_drafted_by_the_commands_that_are_told()
    {
        const string listing = """{"responses":{"200":{"description":"","content":{"application/json":{"schema":{"type":"object","properties":{"items":{"type":"array","items":{"type":"object"}}}}}}}}}""";
        File.WriteAllText(_folder["api.json"], """{"openapi":"3.0.3","info":{"title":"Depots","version":"1"},"servers":[{"url":"SERVER/v2"}],"paths":{"/depots":{"get":LISTING},"/tenants/{id}/scans":{"get":LISTING}}}"""
            .Replace("SERVER", _cloud.Address).Replace("LISTING", listing));
        var listed = await DoneAsync("cursiva draft --description api.json");
        await DoneAsync(new Advised("DraftView.cs", "", "Draft one: cursiva draft").CommandIn(listed.Out).Replace("FILE", "api.json").Replace("OPERATION", "/depots") + SignIn);
        var wants = await Advised.RunAsync("cursiva draft --description api.json --operation '/tenants/{id}/scans'" + SignIn, _folder.Path, Environment);
        await DoneAsync(new Advised("ApiDescription.cs", "needs a value", "draft from the address with a value in its place: cursiva draft").CommandIn(wants.Error).Replace("https://", _cloud.Address + "/v2/tenants/T0001/scans") + SignIn);
        File.WriteAllText(_folder["api.json"], Text("api.json").Replace(_cloud.Address, ""));
        var relative = await Advised.RunAsync("cursiva draft --description api.json --operation /depots" + SignIn, _folder.Path, Environment);
        await DoneAsync(new Advised("ApiDescription.cs", "which is not a complete address", "draft from the address: cursiva draft").CommandIn(relative.Error).Replace("https://HOST", _cloud.Address + "/v2") + " --force" + SignIn);
    }

    [Fact]
    public async Task Half_a_command_line_is_completed_by_the_command_that_is_told()
    {
        await DoneAsync($"cursiva draft {_cloud.Address}/v2/depots --out depots.cursiva.yaml{SignIn}");
        var columns = await Advised.RunAsync("cursiva draft --columns " + Consignments, _folder.Path, Environment);
        var unlanded = (await Advised.RunAsync(new Advised("DraftCommand.cs", "", "--columns works on a job: cursiva draft").CommandIn(columns.Error).Replace("JOB", "depots.cursiva.yaml").Replace("NAME", "depots"), _folder.Path, Environment)).ShouldEndWith(2);
        await DoneAsync(new Advised("ShapeCommand.cs", "no run has landed all its rows", "cursiva run").CommandIn(unlanded.Error));
        var several = await Advised.RunAsync("cursiva shape depots.cursiva.yaml", _folder.Path, Environment);
        await DoneAsync(new Advised("ShapeCommand.cs", "a job has the rows of several pulls", "name one: cursiva shape").CommandIn(several.Error).Replace("PULL", "depots"));
        var without = await Advised.RunAsync("cursiva call depots.cursiva.yaml", _folder.Path, Environment);
        var call = new Advised("CallCommand.cs", "", "name an API of the job and a path: cursiva call").CommandIn(without.Error);
        (await DoneAsync(call.Replace("JOB", "depots.cursiva.yaml").Replace(" API ", " api ").Replace("PATH", "/depots"), 0, 2)).All.ShouldNotBeEmpty();
        await DoneAsync(new Advised("CallCommand.cs", "", "; or call an address: cursiva call").CommandIn(without.Error).Replace("https://", Consignments) + SignIn);
        var path = await Advised.RunAsync("cursiva call depots.cursiva.yaml api", _folder.Path, Environment);
        await DoneAsync(new Advised("CallCommand.cs", "name a path of the API", "name a path of the API: cursiva call").CommandIn(path.Error).Replace("JOB", "depots.cursiva.yaml").Replace(" API ", " api ").Replace("PATH", "/depots"));
        Directory.CreateDirectory(_folder["a folder"]);
        var kept = await DoneAsync($"cursiva call {_cloud.Address}/v2/depots --keep 'a folder/kept.cursiva.yaml'{SignIn}");
        await DoneAsync(new Advised("CallCommand.cs", "Written", "Check it: cursiva check {").CommandIn(kept.Error));
        await DoneAsync(new Advised("CallCommand.cs", "Written", "it has no paging yet; cursiva draft").CommandIn(kept.Error) + $" {_cloud.Address}/v2/depots --out drafted.cursiva.yaml" + SignIn);
    }

    [Theory]
    [InlineData("Rehearsal.cs", "is from a resumed run", "record a run from its start: cursiva run")]
    [InlineData("Rehearsal.cs", "has no exchange", "record a run: cursiva run")]
    [InlineData("RecordedAnswers.cs", "has no body for {", "record again: cursiva run JOB --new --trace FILE; in a browser")]
    [InlineData("RecordedAnswers.cs", "it has nothing at that path", "it has nothing at that path: the job requests more than when it was recorded; record again: cursiva run")]
    [InlineData("RecordedAnswers.cs", "the job's requests differ from the recording", "use the inputs of that run, or record again: cursiva run")]
    public async Task What_a_recording_lacks_is_recorded_by_the_command(string file, string what, string step)
    {
        using var job = new Job(_cloud.Address, "a: { get: /depots, rows: /items, paging: { next-link: /links/next } }", "r: { sql: select * from a, write: r.csv }");
        (await job.RunAsync("--trace", job["night.har"])).ShouldEndWith(0);
        var good = File.ReadAllText(job["night.har"]);
        var entries = JsonDocument.Parse(good).RootElement.GetProperty("log").GetProperty("entries");
        File.WriteAllText(job["night.har"], what.Split(' ')[1] switch
        {
            "from" => System.Text.RegularExpressions.Regex.Replace(good, "\"resumed\":\\s*false", "\"resumed\":true"),
            "no" when file == "Rehearsal.cs" => good.Replace(entries.GetRawText(), "[]"),
            "no" => System.Text.RegularExpressions.Regex.Replace(good, "\"text\":", "\"nothing\":"),
            "has" => good.Replace("/v2/depots", "/v2/others"),
            _ => good.Replace("/v2/depots", "/v2/depots?other=1"),
        });
        var refused = await Advised.RunAsync($"cursiva run {job.Path} --rehearse night.har", job.Folder, job.Environment);
        refused.Code.ShouldBeOneOf(2, 5);
        var command = new Advised(file, what, step.Replace("JOB", job.Path)).CommandIn(refused.Error);
        (await Advised.RunAsync(command.Replace("FILE", "night.har"), job.Folder, job.Environment)).ShouldEndWith(0);
        (await Advised.RunAsync($"cursiva run {job.Path} --rehearse night.har", job.Folder, job.Environment)).ShouldEndWith(0);
    }

    private string Text(string file) => File.ReadAllText(_folder[file]);

    private IEnumerable<(string, string?)> Environment => [("CURSIVA_STATE", _folder["state"]), ("BRACKWATER_SECRET", Job.Secret)];

    private async Task<Ended> DoneAsync(string command, params int[] codes)
    {
        var ended = await Advised.RunAsync(command, _folder.Path, Environment);
        ended.Code.ShouldBeOneOf(codes.Length > 0 ? codes : [0], $"{command}: {ended.All}");
        return ended;
    }
}

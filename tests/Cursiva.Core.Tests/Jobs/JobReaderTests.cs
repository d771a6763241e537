using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Jobs;

public sealed class JobReaderTests : IDisposable
{
    private static readonly DateTimeOffset s_now = new(2026, 11, 24, 9, 30, 0, TimeSpan.Zero);

    private const string Good = """
        cursiva: 1
        title: Weekly
        zone: Europe/Oslo
        out: out/{run.date}
        inputs:
          since: { ago: 7d, start-of: day, zone: Europe/Oslo }
          cloud: https://api.example
        identities:
          app: { grant: client_credentials, token-endpoint: "{cloud}/token", client-id: me, secret: env:S, scope: [a, b] }
        apis:
          exchange:
            base: "{cloud}/v2"
            identity: app
            limits: { at-most: [100 per second, 36000 per hour], use: 80% }
        pulls:
          depots:
            get: /depots{?since}
            rows: /items
            paging: { next-link: /links/next }
            columns: { id: text, postcode: { at: /address/postcode, type: text } }
        reports:
          all:
            sql: |
              select *
              from depots
            write: [all.csv, "all-{run.number}.jsonl"]
        """;

    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public void A_job_is_read_with_its_inputs_filled_in()
    {
        var job = Read(Good);
        job.Title.ShouldBe("Weekly");
        job.Identities["app"].TokenEndpoint.ShouldBe(new Uri("https://api.example/token"));
        job.Identities["app"].Scope.ShouldBe(["a", "b"]);
        job.Apis["exchange"].Limits.Kept.ShouldBe([new Rate(80, TimeSpan.FromSeconds(1)), new Rate(28800, TimeSpan.FromHours(1))]);
        job.Inputs.Single(input => input.Name == "since").Value.ShouldBe("2026-11-16T23:00:00Z");
        job.Pulls[0].Columns[1].At.Segments.ShouldBe(["address", "postcode"]);
        PathTemplate.Expand(job.Pulls[0].Request.Path, job.Inputs).ShouldBe("/depots?since=2026-11-16T23%3A00%3A00Z");
    }

    [Fact]
    public void Every_mistake_is_told_at_once_with_its_place_what_was_found_and_what_would_be_right()
    {
        var mistakes = Mistakes("""
            cursiva: 1
            zone: Europe/Olso
            identities:
              app: { grant: client_credential, token-endpoint: http://login.example/token, client-id: me, secret: hunter2 }
            apis:
              exchange: { base: https://api.example, identity: ap, limits: { at-most: 100 a second } }
            pulls:
              depots:
                get: /depots/{depot}
                rows: items
                pagging: { next-link: /links/next }
                columns: { id: txt }
            reports:
              all: { sql: select 1, write: all.xls }
            """);
        mistakes.ShouldBe(
        [
            "job.cursiva.yaml:2:7: zone in the job must be an IANA time zone, not 'Europe/Olso'; write a name of the IANA time zone database: Europe/Oslo, UTC",
            "job.cursiva.yaml:4:17: unknown grant 'client_credential'; did you mean 'client_credentials'?",
            "job.cursiva.yaml:4:52: 'http://login.example/token' would carry credentials unencrypted; use https; http is accepted only on the loopback address",
            "job.cursiva.yaml:4:103: secret of identity 'app' is not a secret source; write env:NAME, file:PATH, kept:NAME or systemd:NAME, never the secret itself; if this was the secret itself, replace it",
            "job.cursiva.yaml:6:52: no identity is named 'ap'; did you mean 'app'?",
            "job.cursiva.yaml:6:75: '100 a second' is not a limit; write COUNT per second, minute, hour or day, or COUNT per DURATION: 100 per second, 600 per 10m",
            "job.cursiva.yaml:9:10: no input is named 'depot'; there are no inputs",
            "job.cursiva.yaml:10:11: rows in pull 'depots' must be a JSON Pointer, not 'items'; write a JSON Pointer: empty for the whole, or /name/name with ~1 for a slash and ~0 for a tilde",
            "job.cursiva.yaml:11:5: unknown key 'pagging' in pull 'depots'; did you mean 'paging'?",
            "job.cursiva.yaml:12:20: 'txt' is not a column type; did you mean 'text'?",
            "job.cursiva.yaml:14:32: 'all.xls' has no known suffix; end it with one of .csv, .fragment.html, .html, .json, .jsonl, .md, .parquet, .png, .sqlite, .svg, .xlsx; .gz or .zst can follow a text format",
        ]);
    }

    [Theory]
    [InlineData("cursiva: 1\npulls: [a]\n", "pulls in the job is a list")]
    [InlineData("cursiva: 2\npulls: {}\n", "unsupported job-file version 2 (this Cursiva reads 1)")]
    [InlineData("cursiva: 1\n  pulls: x\n y", "this is not YAML")]
    [InlineData("", "the file has no keys")]
    [InlineData("cursiva: 1\ncursiva: 1\n", "this is not YAML")]
    [InlineData("title: x\n", "the job has no 'cursiva'")]
    [InlineData("cursiva: 1\nresume-within: soon\npulls: {}\n", "resume-within in the job must be a duration, not 'soon'")]
    [InlineData("cursiva: 1\ntitle: '{open'\npulls: {}\n", "an opening brace has no closing brace")]
    [InlineData("cursiva: 1\ntitle: '{nme}'\ninputs: { name: x }\npulls: {}\n", "did you mean 'name'?")]
    [InlineData("cursiva: 1\ninclude: gone.yaml\npulls: {}\n", "there is no file 'gone.yaml'")]
    [InlineData("cursiva: 1\napis: { x: { base: 'https://x.example ' } }\npulls: {}\n", "white space after the address")]
    [InlineData("cursiva: 1\napis: { x: { base: https://x.example, limits: { at-most: 1 per second, use: 0% } } }\npulls: {}\n", "use in limits of api 'x' must be a share above 0 and at most 100%, not '0%'")]
    [InlineData("cursiva: 1\napis: { x: { base: https://x.example, attempts: 0 } }\npulls: {}\n", "write a whole number from 1 to 100")]
    [InlineData("cursiva: 1\napis: { x: { base: https://x.example } }\npulls: { p: { get: /, rows: '', paging: { cursor: /c } } }\n", "cursor without parameter")]
    [InlineData("cursiva: 1\napis: { x: { base: https://x.example } }\npulls: { 'p q': { get: /, rows: '' } }\n", "cannot name a pull")]
    [InlineData("cursiva: 1\napis: { x: { base: https://x.example } }\npulls: { p: { get: 'https://y/', rows: '' } }\n", "is a whole address")]
    [InlineData("cursiva: 1\napis: { x: { base: https://x.example } }\npulls: { p: { get: '/{', rows: '' } }\n", "is not a URI template")]
    [InlineData("cursiva: 1\nreports: { r: { sql: select 1, write: ../r.csv } }\npulls: {}\n", "is outside the reports' folder")]
    [InlineData("cursiva: 1\nreports: { r: { sql: select 1, write: [r.csv, r.csv] } }\npulls: {}\n", "is written twice")]
    public void Odd_files_are_told(string yaml, string message) => Mistakes(yaml).ShouldContain(mistake => mistake.Contains(message));

    [Fact]
    public void A_file_that_is_not_there_is_told() =>
        Should.Throw<JobMistakesException>(() => JobReader.Read(_folder["none.yaml"], Given(), s_now)).Mistakes[0].Found.ShouldBe("there is no such file");

    [Fact]
    public void Inputs_come_from_near_and_far_and_say_so()
    {
        _folder.Write("shared.yaml", "inputs: { a: shared, b: shared, c: shared, d: shared, e: shared }");
        var from = _folder.Write("more.json", """{ "d": "more", "e": "more" }""");
        var given = new GivenInputs([from], [KeyValuePair.Create("e", "line")], name => name is "CURSIVA_INPUT_C" or "CURSIVA_INPUT_D" ? "variable" : null);
        var job = Read(Good.Replace("title: Weekly", "include: shared.yaml").Replace("inputs:", "inputs:\n  b: job"), given);
        job.Inputs.Where(input => input.Name.Length == 1).Select(input => input.Value).ShouldBe(["shared", "job", "variable", "more", "line"]);
        job.Inputs.Single(input => input.Name == "b").From.ShouldBe("job.cursiva.yaml, line 6");
        job.Inputs.Single(input => input.Name == "c").From.ShouldBe("environment variable CURSIVA_INPUT_C");
    }

    [Fact]
    public void An_input_that_the_job_does_not_have_is_a_mistake_of_the_command_line() =>
        Should.Throw<JobMistakesException>(() => Read(Good, Given(("sinse", "x")))).Mistakes.ShouldHaveSingleItem().ToString()
            .ShouldBe("--input: the job has no input 'sinse'; did you mean 'since'?");

    [Fact]
    public void The_period_changes_with_the_day_where_the_job_says_so_and_not_with_the_minute()
    {
        var before = Read(Good).Period;
        Read(Good, now: s_now.AddMinutes(5)).Period.ShouldBe(before);
        Read(Good, now: s_now.AddDays(1)).Period.ShouldNotBe(before);
        Read(Good, Given(("cloud", "https://other.example"))).Period.ShouldBe(before);
        var drifting = Good.Replace(", start-of: day", "").Replace("{run.date}", "x");
        Read(drifting, now: s_now.AddDays(1)).Period.ShouldBe(Read(drifting).Period);
        var dated = Good.Replace(", start-of: day", "");
        Read(dated, now: s_now.AddDays(1)).Period.ShouldNotBe(Read(dated).Period);
    }

    [Theory]
    [InlineData("x", "0.5")]
    [InlineData("../x", "1")]
    [InlineData(".x", "1")]
    public void A_name_is_one_step_of_a_path_and_nothing_else(string name, string ok)
    {
        if (ok == "1")
            Should.Throw<JobMistakesException>(() => Read(Good + $"\nname: {name}")).Mistakes.ShouldHaveSingleItem().Found.ShouldBe($"'{name}' cannot name a job");
        else
            Read(Good + $"\nname: {name}").Name.ShouldBe(name);
    }

    [Fact]
    public void The_sql_knows_where_it_stands_in_the_file()
    {
        var report = Read(Good).Reports[0];
        report.Parts[0].Sql!.At(report.Parts[0].Sql!.Text.IndexOf("depots", StringComparison.Ordinal)).ToString().ShouldBe(_folder["job.cursiva.yaml"] + ":25:12");
    }

    private Job Read(string yaml, GivenInputs? given = null, DateTimeOffset? now = null)
    {
        _folder.Write("job.cursiva.yaml", yaml);
        try
        {
            return JobReader.Read(_folder["job.cursiva.yaml"], given ?? Given(), now ?? s_now);
        }
        catch (JobMistakesException error)
        {
            throw new JobMistakesException([.. error.Mistakes.Select(mistake => mistake with { Place = mistake.Place with { File = mistake.Place.File.Replace(_folder.Path + "/", "") } })]);
        }
    }

    private string[] Mistakes(string yaml) =>
        [.. Should.Throw<JobMistakesException>(() => Read(yaml)).Mistakes.Select(mistake => mistake.ToString())];

    private static GivenInputs Given(params (string Name, string Value)[] values) =>
        new([], [.. values.Select(value => KeyValuePair.Create(value.Name, value.Value))], _ => null);

    [Fact]
    public void A_mistake_is_told_once()
    {
        var mistakes = Mistakes("""
            cursiva: 1
            identities: { app: { grant: client_credentials, token-endpoint: "{cloud}/token", client-id: x, secret: env:S } }
            apis: { a: { base: "{cloud}/v2", identity: app, timeout: "{wait}" } }
            pulls: { p: { get: "/x/{nope}{?nope}", rows: /items, paging: { page-number: "{first}", parameter: page } } }
            """);
        mistakes.Length.ShouldBe(5);
        mistakes.ShouldAllBe(mistake => mistake.Contains("no input is named"));
    }
}

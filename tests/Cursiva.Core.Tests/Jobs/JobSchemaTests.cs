using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;
using Cursiva.Core.Refusals;
using NJsonSchema;

namespace Cursiva.Core.Tests.Jobs;

/// <summary>What is published of the job file is what the reader goes by. CURSIVA_WRITE_DOCS=1 writes it anew.</summary>
public sealed class JobSchemaTests
{
    [Theory]
    [InlineData("docs/job.schema.json")]
    [InlineData("docs/job-file.md")]
    [InlineData("docs/refusals.md")]
    public void The_published_page_is_the_present_one(string file)
    {
        var path = Path.Combine(Repository.Root, file);
        var present = file switch { "docs/job.schema.json" => JobSchema.Write(), "docs/refusals.md" => RefusalsPage.Write(), _ => JobReference.Write() };
        if (Environment.GetEnvironmentVariable("CURSIVA_WRITE_DOCS") == "1")
            File.WriteAllText(path, present);
        File.ReadAllText(path).ShouldBe(present);
    }

    [Fact]
    public void Every_key_of_the_reader_is_in_the_schema_and_none_other()
    {
        var keys = Sections()
            .Concat(PagingStyles.All.SelectMany(style => style.Keys).Select(key => key.Inside).OfType<Section>())
            .SelectMany(section => section.Keys).Select(key => key.Name).Distinct().Order();
        var schema = System.Text.Json.Nodes.JsonNode.Parse(JobSchema.Write())!;
        Properties(schema).Distinct().Order().ShouldBe(keys);
    }

    // Every section that a class of keys declares.
    private static IEnumerable<Section> Sections() => typeof(JobKeys).Assembly.GetTypes()
        .Where(type => type.Namespace == typeof(JobKeys).Namespace && type.Name.EndsWith("Keys", StringComparison.Ordinal))
        .SelectMany(type => type.GetFields())
        .Where(field => field.FieldType == typeof(Section))
        .Select(field => (Section)field.GetValue(null)!);

    [Fact]
    public void The_reference_shows_every_section_that_a_job_or_a_shared_file_can_have()
    {
        var sections = new HashSet<Section>(ReferenceEqualityComparer.Instance);
        void Collect(Section section)
        {
            if (!sections.Add(section))
                return;
            foreach (var inside in section.Keys.Select(key => key.Inside).OfType<Section>())
                Collect(inside);
        }

        Collect(JobKeys.JobSection);
        Collect(JobKeys.SharedSection);
        var page = JobReference.Write();
        sections.Select(section => section.Name).Distinct().Where(name => !page.Contains($"\n## {name}\n")).ShouldBeEmpty();
    }

    [Fact]
    public async Task The_schema_accepts_the_examples_and_refuses_what_the_reader_refuses()
    {
        var schema = await JsonSchema.FromJsonAsync(JobSchema.Write(), CancellationToken.None);
        schema.Validate("""{ "cursiva": 1, "pulls": { "p": { "get": "/", "rows": "/items", "paging": { "next-link": "/n" }, "columns": { "a": "text" } } } }""").ShouldBeEmpty();
        schema.Validate("""{ "cursiva": 1, "pulls": { "p": { "get": "/", "rows": "items" } } }""").ShouldNotBeEmpty();
        schema.Validate("""{ "cursiva": 1, "pulls": { "p": { "get": "/", "rows": "/items", "pagging": {} } } }""").ShouldNotBeEmpty();
        schema.Validate("""{ "cursiva": 1 }""").ShouldNotBeEmpty();
    }

    [Fact]
    public async Task The_schema_takes_shared_files_and_a_schema_of_its_own_in_both()
    {
        var schema = await JsonSchema.FromJsonAsync(JobSchema.Write(), CancellationToken.None);
        schema.Validate("""{ "$schema": "job.schema.json", "inputs": { "a": 1 }, "apis": { "x": { "base": "https://x.example" } } }""").ShouldBeEmpty();
        schema.Validate("""{ "$schema": "job.schema.json", "cursiva": 1, "pulls": {} }""").ShouldBeEmpty();
        schema.Validate("""{ "reports": {} }""").ShouldNotBeEmpty();
    }

    public static TheoryData<string, string> Places() => new()
    {
        { "", "job" }, { "apis/exchange", "api" }, { "apis/exchange/limits", "limits" }, { "pulls/p", "pull" }, { "pulls/p/paging", "paging" }, { "pulls/p/per", "per" }, { "pulls/p/window", "window" },
        { "pulls/p/opens", "opens" }, { "pulls/p/skip-when", "skip-when" }, { "pulls/p/export", "export" }, { "pulls/p/rows", "rows" }, { "inputs/a", "relative time" }, { "reports/r", "report" }, { "reports/r/require", "requirement" }, { "reports/r/csv", "csv" },
        { "apis/exchange/encryption", "encryption of an api" }, { "apis/exchange/signatures/requests", "requests of signatures" }, { "apis/exchange/signatures/answers", "answers of signatures" }, { "pulls/p/signatures/rows", "rows of signatures" },
        { "deliveries/d", "delivery" }, { "deliveries/d/mail", "mail" },
    };

    [Theory]
    [MemberData(nameof(Places))]
    public async Task The_schema_and_the_reader_agree_on_every_value(string place, string name)
    {
        using var folder = new TemporaryFolder();
        var schema = await JsonSchema.FromJsonAsync(JobSchema.Write(), CancellationToken.None);
        var section = Sections().First(section => section.Name == name);
        foreach (var key in section.Keys.Where(key => s_judged.Contains(key.Kind) && key != JobKeys.Cursiva))
        {
            foreach (var value in s_values.Concat([key.Least.ToString(), (key.Least - 1).ToString(), key.Most.ToString(), ((long)key.Most + 1).ToString()]))
            {
                var job = Job(place, key, value);
                var mistakes = Mistakes(folder.Write("job.cursiva.yaml", job)).Where(mistake => mistake.Found.StartsWith($"{key.Name} in ", StringComparison.Ordinal) || mistake.Found.StartsWith($"unknown {key.Name} ", StringComparison.Ordinal) || mistake.Found.Contains($"'{value.Trim('"')}'", StringComparison.Ordinal)).ToList();
                (mistakes.Count == 0).ShouldBe(schema.Validate(job).Count == 0, $"{place} {key.Name}: {value}: {string.Join("; ", mistakes)}");
            }
        }
    }

    private static readonly KeyKind[] s_judged = [KeyKind.Number, KeyKind.Duration, KeyKind.Share, KeyKind.Allowance, KeyKind.CountOrAge, KeyKind.Zone, KeyKind.Choice, KeyKind.Choices, KeyKind.Switch, KeyKind.Rates];

    private static readonly string[] s_values =
    [
        "\"101%\"", "\"100%\"", "\"100.0%\"", "\"0%\"", "\"7.5%\"", "0.5", "1.5", "-1", "1", "\"Oslo\"", "\"Europe/Oslo\"", "\"UTC\"", "\"10m\"", "10", "\"m\"", "\"1.2.3s\"", "\"1.5h\"", "\"2 h\"", "\"100 per second\"", "\"0 per second\"", "\"5 per 10m\"", "\"5 an hour\"", "true", "\"maybe\"",
    ];

    private static string Job(string place, Key key, string value)
    {
        var job = System.Text.Json.Nodes.JsonNode.Parse("""
            { "cursiva": 1, "apis": { "exchange": { "base": "https://api.example/v2" } }, "pulls": { "p": { "get": "/x", "rows": "" } } }
            """)!.AsObject();
        if (place.StartsWith("reports/", StringComparison.Ordinal))
            job["reports"] = System.Text.Json.Nodes.JsonNode.Parse("""{ "r": { "sql": "select 1", "write": "a.csv" } }""");
        var at = job;
        foreach (var name in place.Split('/', StringSplitOptions.RemoveEmptyEntries))
            at = (at[name] as System.Text.Json.Nodes.JsonObject ?? (System.Text.Json.Nodes.JsonObject)(at[name] = new System.Text.Json.Nodes.JsonObject())!);
        foreach (var needed in (place.Length == 0 ? [] : Needed(place, key.Name)).Where(needed => !at.ContainsKey(needed.Key)))
            at[needed.Key] = System.Text.Json.Nodes.JsonNode.Parse(needed.Value);
        at[key.Name] = System.Text.Json.Nodes.JsonNode.Parse(value);
        return job.ToJsonString();
    }

    // What a section cannot be without.
    private static Dictionary<string, string> Needed(string place, string key) => place switch
    {
        "pulls/p/paging" when key is not ("page-number" or "offset" or "stream") => new() { ["offset"] = "0", ["parameter"] = "\"from\"" },
        "pulls/p/window" => new() { ["from"] = "\"2026-01-01\"", ["to"] = "\"2026-02-01\"", ["step"] = "\"1d\"" },
        "pulls/p/opens" => new() { ["get"] = "\"/y\"" },
        "apis/exchange/encryption" => new() { ["cipher"] = "\"JWE\"", ["key"] = "\"env:K\"" },
        "apis/exchange/signatures/requests" => new() { ["form"] = "\"hmac-sha256\"", ["key"] = "\"env:K\"", ["text"] = "\"{body}\"" },
        "apis/exchange/signatures/answers" or "pulls/p/signatures/rows" => new() { ["form"] = "\"jws\"", ["key"] = "\"env:K\"", ["at"] = "\"/x\"" },
        "inputs/a" => new() { ["ago"] = "\"1d\"" },
        _ => [],
    };

    private static IReadOnlyList<Mistake> Mistakes(string path)
    {
        try
        {
            JobReader.Read(path, new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);
            return [];
        }
        catch (JobMistakesException error)
        {
            return error.Mistakes;
        }
    }

    private static IEnumerable<string> Properties(System.Text.Json.Nodes.JsonNode? node) => node switch
    {
        System.Text.Json.Nodes.JsonObject o => o.SelectMany(pair => pair.Key == "properties" && pair.Value is System.Text.Json.Nodes.JsonObject inside
            ? inside.Select(property => property.Key).Concat(inside.SelectMany(property => Properties(property.Value)))
            : Properties(pair.Value)),
        System.Text.Json.Nodes.JsonArray a => a.SelectMany(Properties),
        _ => [],
    };
}

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
        var keys = typeof(JobKeys).GetFields().Concat(typeof(IdentityKeys).GetFields()).Concat(typeof(PullKeys).GetFields()).Concat(typeof(ReportKeys).GetFields()).Where(field => field.FieldType == typeof(Section)).Select(field => (Section)field.GetValue(null)!)
            .Where(section => section != JobKeys.SharedSection).SelectMany(section => section.Keys).Select(key => key.Name).Distinct().Order();
        var schema = System.Text.Json.Nodes.JsonNode.Parse(JobSchema.Write())!;
        Properties(schema).Distinct().Order().ShouldBe(keys);
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

    private static IEnumerable<string> Properties(System.Text.Json.Nodes.JsonNode? node) => node switch
    {
        System.Text.Json.Nodes.JsonObject o => o.SelectMany(pair => pair.Key == "properties" && pair.Value is System.Text.Json.Nodes.JsonObject inside
            ? inside.Select(property => property.Key).Concat(inside.SelectMany(property => Properties(property.Value)))
            : Properties(pair.Value)),
        System.Text.Json.Nodes.JsonArray a => a.SelectMany(Properties),
        _ => [],
    };
}

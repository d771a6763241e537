namespace Cursiva.Cli.Tests;

/// <summary>What requests are made of, and how rows are taken out of answers.</summary>
public sealed class RowsTests : IAsyncLifetime
{
    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--rows", "20", "--client-secret", Job.Secret);

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    [Theory]
    [InlineData("get: /odd/rows/one, rows: { at: /profile, one: true }", """{"id":7,"name":"Brackwater"}""")]
    [InlineData("get: /odd/rows/one, rows: { one: true }, omit: [/links, /profile/id]", """{"profile_name":"Brackwater"}""")]
    [InlineData("get: /odd/rows/values, rows: { at: /depots, keys-as: code }", """{"code":"D1","name":"Northquay","value":null}""" + "\n" + """{"code":"D2","name":"Low \"Ferry\"","value":null}""" + "\n" + """{"code":"Dé","name":null,"value":42}""")]
    public async Task Rows_of_other_forms_are_taken_out(string pull, string expected)
    {
        using var job = new Job(_cloud.Address, $"p: {{ {pull} }}", "r: { sql: select * from p, write: r.jsonl }");
        (await job.RunAsync()).ShouldEndWith(0);
        (await File.ReadAllTextAsync(job["reports/r.jsonl"])).TrimEnd().ShouldBe(expected);
    }

    [Fact]
    public async Task What_is_dropped_never_touches_the_disk()
    {
        using var job = new Job(_cloud.Address, "p: { get: /tenants/T0001/scans, rows: /items, omit: [/driver/phone, /depot] }", "r: { sql: select * from p, write: r.jsonl }");
        (await job.RunAsync()).ShouldEndWith(0);
        foreach (var file in Directory.GetFiles(job.Folder, "*", SearchOption.AllDirectories))
        {
            var text = System.Text.Encoding.Latin1.GetString(await File.ReadAllBytesAsync(file));
            text.ShouldNotContain("555-");
            text.ShouldNotContain("\"depot\"");
        }

        (await File.ReadAllTextAsync(job["reports/r.jsonl"])).ShouldContain("\"driver_name\":\"driver ");
    }

    [Fact]
    public async Task Path_query_and_headers_are_filled_in_where_they_belong()
    {
        using var job = new Job(_cloud.Address, """
            p:
              get: /by/echo{?since}
              query: { status: [late, held], depot: "{depot}" }
              headers: { X-Partner: "for {depot}", X-Secret: env:BRACKWATER_SECRET }
              accept: application/vnd.brackwater+json
              rows: ""
            """, "r: { sql: select * from p, write: r.jsonl }", api: "query: { locale: en }", top: "inputs: { since: 2026-03-02, depot: Møllehavn & Co }");
        (await job.RunAsync()).ShouldEndWith(0);
        (await File.ReadAllTextAsync(job["reports/r.jsonl"])).TrimEnd().ShouldBe(
            """{"path":"/v2/by/echo","query":"?since=2026-03-02&locale=en&status=late&status=held&depot=M%C3%B8llehavn%20%26%20Co","accept":"application/vnd.brackwater+json","partner":"for M?llehavn & Co","secret_is_right":"yes"}""".Replace("M?llehavn", "Møllehavn"));
    }

    [Fact]
    public async Task A_form_is_sent_as_one()
    {
        using var job = new Job(_cloud.Address, """
            p:
              post: /by/form
              body: { status: late, size: 10, key: env:BRACKWATER_SECRET }
              body-as: form
              rows: ""
            """, "r: { sql: \"select status, size, length(key) as n from p\", write: r.csv }");
        (await job.RunAsync()).ShouldEndWith(0);
        (await File.ReadAllTextAsync(job["reports/r.csv"])).ShouldBe($"status,size,n\r\nlate,10,{Job.Secret.Length}\r\n");
    }

    [Theory]
    [InlineData("gzip")]
    [InlineData("deflate")]
    [InlineData("br")]
    public async Task Packed_answers_are_unpacked(string coding)
    {
        using var job = new Job(_cloud.Address, $"p: {{ get: '/consignments?packed={coding}', rows: /items }}", "all: { sql: select * from p, write: all.jsonl }");
        (await job.RunAsync()).ShouldEndWith(0);
        File.ReadAllLines(job["reports/all.jsonl"]).ShouldBe((await _cloud.RowsAsync("consignments")).Select(row => row.GetRawText()));
    }

    [Theory]
    [InlineData("large", "the answer is larger than 1 MiB")]
    [InlineData("large?packed=gzip", "the answer is larger than 1 MiB")]
    [InlineData("deep", "nested deeper than 64 levels, at byte")]
    [InlineData("not-utf8", "not UTF-8, at byte 18")]
    public async Task Answers_that_could_do_harm_are_refused_and_kept_for_inspection(string path, string what)
    {
        using var job = new Job(_cloud.Address, $"p: {{ get: '/odd/{path}', rows: /items }}", api: "largest-page: 1");
        var ended = (await job.RunAsync()).ShouldEndWith(5);
        ended.Error.ShouldContain(what);
        if (what.StartsWith("the answer"))
            return;
        ended.Error.ShouldContain("the page is kept in ");
        var kept = Directory.GetFiles(job.State, "p-page-1.txt", SearchOption.AllDirectories).Single();
        System.Text.Encoding.Latin1.GetString(await File.ReadAllBytesAsync(kept)).ShouldStartWith("{\"items\":[{\"id\":");
    }

    [Fact]
    public async Task Names_and_kinds_of_any_sort_are_landed_exactly()
    {
        using var job = new Job(_cloud.Address, "names: { get: /odd/names, rows: '' }\nkinds: { get: /odd/kinds, rows: '' }", """
            n: { sql: select * from names, write: n.jsonl }
            k: { sql: "select id, v from kinds", write: k.jsonl }
            """);
        var ended = (await job.RunAsync()).ShouldEndWith(0);
        ended.Error.ShouldContain("pull 'names' has rows with a member twice (1 times)");
        (await File.ReadAllTextAsync(Landed(job, "names"))).ShouldBe("""{"a.b":1,"a/b":2,"a~b":3,"a b":4,"A":5,"a":6,"":7,"twice":1,"twice":2}""" + "\n");
        (await File.ReadAllTextAsync(Landed(job, "kinds"))).ShouldBe(
            """{"id":1,"v":1}|{"id":2,"v":"1"}|{"id":3,"v":null}|{"id":4}|{"id":5,"v":{"n":[1,{"m":1.50}]}}|{"id":6,"v":""}|{"id":7,"v":1E+2}|{"id":8,"v":"line\nbreak \ud83d\ude80"}|""".Replace('|', '\n'));
        File.ReadAllLines(job["reports/n.jsonl"]).ShouldBe(["""{"a.b":1,"a/b":2,"a~b":3,"a b":4,"A":5,"a_2":6,"_":7,"twice":2}"""]);
    }

    private static string Landed(Job job, string pull) => Directory.GetFiles(job.State, "segment-*.jsonl", SearchOption.AllDirectories).Single(file => file.Contains($"/{pull}/"));
}

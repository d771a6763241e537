using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Jobs;

public sealed class PullReaderTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public void A_body_keeps_its_types_and_placeholders_wait_for_their_strand()
    {
        var pull = Read("""
            depots: { get: /depots, rows: /items }
            p:
              per: depots
              post: /search
              query: { state: [late, held], day: "{day}" }
              headers: { X-Depot: "{depots.id}" }
              body: { text: "10", number: 10, exact: 123456789012345678901234567890.10, yes: true, none: null, list: [1, "{day}"], depot: "{depots.id}" }
              rows: { at: /found, one: true }
            """)[1];
        pull.Request.Method.ShouldBe("POST");
        pull.Request.Body!.AsWritten()!.ToJsonString().ShouldBe("""{"text":"10","number":10,"exact":123456789012345678901234567890.10,"yes":true,"none":null,"list":[1,"2026-03-02"],"depot":"{depots.id}"}""");
        pull.Request.Query.Select(pair => $"{pair.Key}={pair.Value.Written}").ShouldBe(["state=late", "state=held", "day=2026-03-02"]);
        pull.Request.Headers.Single().Value.Names.ShouldBe(["depots.id"]);
        (pull.Rows.Form, pull.Rows.Inside, pull.Rows.KeysAs).ShouldBe((RowsForm.One, null, null));
        pull.Per!.Pull.ShouldBe("depots");
    }

    [Theory]
    [InlineData("next-link: /n", "next-link")]
    [InlineData("link-header: next", "link-header")]
    [InlineData("page-number: 0, parameter: page", "page-number")]
    [InlineData("offset: 0, parameter: offset", "offset")]
    [InlineData("cursor: /c, header: X-After", "cursor")]
    [InlineData("cursor-header: X-Next, parameter: after", "cursor")]
    [InlineData("keyset: /id, parameter: after", "keyset")]
    [InlineData("stream: array", "stream")]
    public void The_key_that_is_there_tells_the_style(string paging, string style) =>
        Read($"p: {{ get: /x, rows: '', paging: {{ {paging} }} }}")[0].Paging.Style.ToString().ShouldBe(style);

    [Theory]
    [InlineData("get: /x, rows: '', paging: { cursor: /c }", "has cursor without parameter")]
    [InlineData("get: /x, rows: '', paging: { cursor: [/c, /d], parameter: [a, b], header: c }", "has 2 places at cursor, and 3 of parameter, header, body-at and placeholder")]
    [InlineData("get: /x, rows: '', paging: { page-number: 1, placeholder: page }", "its path has no such placeholder")]
    [InlineData("get: '/x/{c}', rows: '', paging: { cursor: /c, placeholder: c }", "has no value for {c} on its first page")]
    [InlineData("get: /x, rows: { at: /a, carry: { b: /b } }", "has carry without inside")]
    [InlineData("get: /x, rows: [/a, /a/b]", "equal, inside each other")]
    [InlineData("get: /x, rows: /a, window: { from: 2026-01-01, to: 2026-01-02, step: 1h }", "its request has no {window.from}")]
    [InlineData("get: '/x{?window.from}', rows: /a, window: { from: 2026-01-02, to: 2026-01-01, step: 1h }", "not after its beginning")]
    [InlineData("get: '/x{?window.from}', rows: /a, window: { from: 2026-01-01T06:00:00, to: 2026-01-05, step: 1h }", "is not a time with an offset")]
    [InlineData("get: '/x{?window.from}', rows: /a, window: { from: 2026-01-01, to: 2026-01-05, step: 1h, as: date }", "do not match the format that is sent")]
    [InlineData("get: /x, rows: '', paging: { next-link: /n, parameter: a }", "has parameter without cursor")]
    [InlineData("get: /x, rows: '', paging: { total: /t }", "does not say how to find the next page")]
    [InlineData("get: /x, rows: '', paging: { offset: 0, parameter: o, size-parameter: limit }", "has size-parameter without page-size")]
    [InlineData("get: /x, rows: '', paging: { offset: 2, parameter: o }", "must be a whole number from 0 to 1, not '2'")]
    [InlineData("get: /x, rows: '', paging: { offset: 0, parameter: o, pages: /p }", "has pages without page-number")]
    [InlineData("get: /x, rows: '', paging: { next-link: /n, when-shifted: again }", "has when-shifted with next-link")]
    [InlineData("get: /x, rows: '', paging: { keyset: /k, parameter: a, changes: /d }, key: /k", "has changes with keyset")]
    [InlineData("get: /x, rows: '', paging: { next-link: /n, changes: /d }", "has paging without key")]
    [InlineData("get: /x, rows: '', paging: { cursor: /c, body-at: /a }", "sends a cursor in its body but has no body")]
    [InlineData("get: /x, post: /y, rows: ''", "has both get and post")]
    [InlineData("rows: ''", "has no 'get'")]
    [InlineData("get: /x", "has no 'rows'")]
    [InlineData("get: /x, body: {}, rows: ''", "has a body without post")]
    [InlineData("get: /x, rows: { one: true, keys-as: k }", "has more than one of one, keys-as, value-as and inside")]
    [InlineData("get: /x, rows: { one: true }, paging: { stream: array }", "is a stream, but its rows: is for pages")]
    [InlineData("get: /x, rows: '', skip-when: [{ at: /code }]", "has neither status nor sign-in")]
    [InlineData("get: /x, rows: '', skip-when: [{ status: 403 }], allow-skips: some", "must be a count or a percentage, not 'some'")]
    [InlineData("get: /x, rows: '', incremental: { by: /t }", "has incremental without key")]
    [InlineData("get: /x, rows: '', key: /id, incremental: { by: /t, overlap: much }", "'much' is not an overlap")]
    [InlineData("get: /x, rows: '', deleted-when: { at: /s }", "has deleted-when without key")]
    [InlineData("post: /x, export: { files: /p }, paging: { next-link: /n }", "has both export and paging")]
    [InlineData("get: /x, download: a, export: { files: /p }", "has both download and export")]
    [InlineData("get: '/x{?mark}', rows: ''", "no input is named 'mark'")]
    [InlineData("get: /x, rows: '', identity: nobody", "no identity is named 'nobody'")]
    [InlineData("get: /x, rows: '', per: { name: t }", "needs exactly one of pull, list, file and sql")]
    [InlineData("get: /x, rows: '', per: { name: day, list: [a] }", "'day' is already the name of a pull or input")]
    [InlineData("get: /x, rows: '', per: { name: t, list: [a, { b: c }] }", "is not a list of texts, or of groups of keys")]
    [InlineData("get: /x, rows: '', per: { name: t, list: [a] }, carry: { x: /x }, columns: { X: text }", "column 'x' of pull 'p' is both carried and declared")]
    public void Keys_that_do_not_go_together_are_told(string pull, string found) =>
        Should.Throw<JobMistakesException>(() => Read($"p: {{ {pull} }}")).Mistakes.Select(mistake => mistake.Found).ShouldContain(text => text.Contains(found), string.Join('\n', "looked for: " + found));

    [Fact]
    public void Identities_and_APIs_are_filled_in_for_each_strand()
    {
        var job = ReadJob("""
            p:
              per: { name: tenant, list: [{ id: T1, host: a }] }
              get: /x
              rows: ''
            """, "https://{tenant.host}.example/v2", "tenant-{tenant.id}");
        job.Strands.Names.ShouldBe(["tenant.id", "tenant.host"], ignoreOrder: true);
        string? Value(string name) => name == "tenant.id" ? "T7" : "b";
        job.Strands.Identity("app", Value).ClientId.ShouldBe("tenant-T7");
        job.Strands.Identity("app", Value).Name.ShouldBe("app (T7)");
        job.Strands.Apis["exchange"](Value).Base.ShouldBe(new Uri("https://b.example/v2"));
        Should.Throw<JobMistakesException>(() => job.Strands.Apis["exchange"](_ => "no host"));
    }

    [Theory]
    [InlineData("10", 10, 100, true)]
    [InlineData("10", 11, 100, false)]
    [InlineData("5%", 5, 100, true)]
    [InlineData("5%", 6, 100, false)]
    [InlineData("0", 0, 0, true)]
    public void Skips_are_allowed_by_count_or_share(string text, int skipped, int strands, bool allowed) => SkipAllowance.TryParse(text)!.Allows(skipped, strands).ShouldBe(allowed);

    private IReadOnlyList<Pull> Read(string pulls) => ReadJob(pulls).Pulls;

    private Job ReadJob(string pulls, string apiBase = "https://api.example", string client = "me")
    {
        var path = _folder["job.cursiva.yaml"];
        File.WriteAllText(path, $$"""
            cursiva: 1
            inputs: { day: 2026-03-02 }
            identities: { app: { grant: client_credentials, token-endpoint: "https://login.example/token", client-id: "{{client}}", secret: "env:S" } }
            apis: { exchange: { base: "{{apiBase}}", identity: app } }
            pulls:
            {{string.Join('\n', pulls.Split('\n').Select(line => "  " + line))}}
            """);
        return JobReader.Read(path, new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);
    }
}

using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Jobs;

/// <summary>What makes a pull begin anew when a stopped run is resumed with a changed job, and what does not.</summary>
public sealed class PullPrintsTests : IDisposable
{
    private const string Whole = """
        cursiva: 1
        inputs: { since: 2026-01-01, limit: 5, unused: x }
        identities: { app: { grant: client_credentials, token-endpoint: "https://login.example/t", client-id: me, secret: "env:S", scope: [a] } }
        apis: { exchange: { base: "https://api.example/v2", identity: app, limits: { at-most: 5 per second } } }
        pulls:
          depots: { get: "/depots{?since}", rows: /items, paging: { next-link: /next, most-pages: 5 } }
          stock: { per: depots, post: "/stock/{depots.id}", body: { n: 10, t: "10" }, rows: /items }
          other: { get: /other, rows: /items }
          asked: { per: { name: q, sql: select id from other }, get: "/asked/{q.id}", rows: /items }
        reports:
          r: { sql: select * from depots limit 5, write: r.csv }
        """;

    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Theory]
    [InlineData("limit 5", "limit 6", "")]
    [InlineData("cursiva: 1", "cursiva: 1\n# a remark\ntitle: Another", "")]
    [InlineData("rows: /items, paging", "rows: /items, skip-when: { status: 403, because: x }, parallel: 3, columns: { id: text }, require: complete, paging", "")]
    [InlineData("most-pages: 5", "most-pages: 50, optional: true", "")]
    [InlineData("5 per second", "9 per second", "")]
    [InlineData("env:S", "file:S", "")]
    [InlineData("limit: 5,", "limit: 6,", "")]
    [InlineData("get: /other, rows: /items", "rows: /items, get: '/other'", "")]
    [InlineData("since: 2026-01-01", "since: 2026-01-02", "depots, stock, asked")]
    [InlineData("next-link: /next", "next-link: /nxt", "depots, stock, asked")]
    [InlineData("n: 10", "n: \"10\"", "stock, asked")]
    [InlineData("get: /other", "get: /others", "other, asked")]
    [InlineData("/v2", "/v3", "depots, stock, other, asked")]
    [InlineData("scope: [a]", "scope: [a, b]", "depots, stock, other, asked")]
    [InlineData("get: /other, rows: /items", "get: /other, rows: /items, signatures: { rows: { form: jws, at: /s, key: 'env:K' } }", "other, asked")]
    [InlineData("get: /other, rows: /items", "get: /other, rows: /items, validate: x.json", "other, asked")]
    [InlineData("identity: app, limits", "identity: app, signatures: { answers: { form: http-message, key: 'env:K' } }, limits", "depots, stock, other, asked")]
    [InlineData("select id from other", "select id from stock", "asked")]
    public void A_pull_is_another_one_where_its_rows_may_be_others(string was, string becomes, string changed)
    {
        var (before, after) = (Prints(Whole), Prints(Whole.Replace(was, becomes)));
        Whole.ShouldContain(was);
        string.Join(", ", before.Keys.Where(name => before[name] != after[name])).ShouldBe(changed);
    }

    private IReadOnlyDictionary<string, string> Prints(string yaml) => JobReader.Read(_folder.Write("job.cursiva.yaml", yaml), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch).PullPrints;
}

using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Cursiva.Core.Encryption;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>Rows that are signed, and rows that must fit a schema: what lands, and what stops the run.</summary>
public sealed class SignedRowsTests : IAsyncDisposable
{
    private readonly PullHarness _pulls = new();
    private readonly TemporaryFolder _folder = new();
    private readonly ECDsa _seal = ECDsa.Create(ECCurve.NamedCurves.nistP256);
    private readonly ECDsa _other = ECDsa.Create(ECCurve.NamedCurves.nistP256);

    private string Key => $"file:{_folder.Write("seal.pem", _seal.ExportSubjectPublicKeyInfoPem())}";

    public async ValueTask DisposeAsync()
    {
        await _pulls.DisposeAsync();
        _folder.Dispose();
        _seal.Dispose();
        _other.Dispose();
    }

    [Fact]
    public async Task The_verified_payload_takes_the_rows_place_or_joins_it_and_a_column_says_by_which_key()
    {
        string[] payloads = ["""{ "number": "N-1",  "weight": 10.50, "deep": { "é": [1, 2] } }""", """{"number":"N-2","weight":123456789012345678901234567890}"""];
        var items = payloads.Select((payload, place) => $$"""{"id":{{place}},"signed":"{{Sign(payload)}}"}""");
        await RunAsync(items, "form: jws, at: /signed, key-id: seal-1, by: verified_by");
        _pulls.Rows["p"].ShouldBe("""{"number":"N-1","weight":10.50,"deep":{"é":[1,2]},"verified_by":"seal-1"}""" + "\n" + """{"number":"N-2","weight":123456789012345678901234567890,"verified_by":"seal-1"}""" + "\n");

        await RunAsync(items, "form: jws, at: /signed, payload: confirmed, by: by");
        var mark = "sha-256 " + Convert.ToHexStringLower(SHA256.HashData(_seal.ExportSubjectPublicKeyInfo()));
        JsonNode.Parse(_pulls.Rows["p"].Split('\n')[0])!["confirmed"]!["weight"]!.ToJsonString().ShouldBe("10.50");
        JsonNode.Parse(_pulls.Rows["p"].Split('\n')[0])!["by"]!.ToString().ShouldBe(mark);
        JsonNode.Parse(_pulls.Rows["p"].Split('\n')[0])!["id"]!.ToJsonString().ShouldBe("0");
    }

    [Fact]
    public async Task A_detached_signature_goes_over_the_very_text_of_a_member()
    {
        const string document = """{"number":"N-1","weight":10.50}""";
        string Row(string text, string signed) => $$"""{"document":{{text}},"seal":"{{signed}}"}""";
        await RunAsync([Row(document, Sign(document, isDetached: true))], "form: jws-detached, at: /seal, payload-at: /document, key-id: seal-1, by: by");
        _pulls.Rows["p"].ShouldBe($$"""{"document":{{document}},"seal":"{{JsonNode.Parse(_pulls.Rows["p"])!["seal"]}}","by":"seal-1"}""" + "\n");
        (await RefusedAsync([Row("""{"number":"N-1","weight":10.5}""", Sign(document, isDetached: true))], "form: jws-detached, at: /seal, payload-at: /document")).ShouldContain("row 1 of a page of pull 'p' of API 'x' does not verify: the signature is not valid");
        (await RefusedAsync(["""{"seal":"a..b"}"""], "form: jws-detached, at: /seal, payload-at: /document")).ShouldContain("no payload at /document");
    }

    [Theory]
    [InlineData("other key", "made with another key")]
    [InlineData("touched", "made with another key")]
    [InlineData("no algorithm", "not one of RS256")]
    [InlineData("missing", "no signed text at /signed")]
    [InlineData("no text", "it is not a JWS")]
    public async Task What_does_not_verify_stops_the_run_or_is_told_and_kept(string lie, string says)
    {
        var signed = Sign("""{"number":"N-1"}""", by: lie == "other key" ? _other : _seal);
        var row = lie switch
        {
            "missing" => """{"id":1}""",
            "no text" => """{"id":1,"signed":"nothing"}""",
            "touched" => $$"""{"id":1,"signed":"{{signed.Split('.')[0]}}.{{Url("""{"number":"N-2"}""")}}.{{signed.Split('.')[2]}}"}""",
            "no algorithm" => $$"""{"id":1,"signed":"{{Url("""{"alg":"none"}""")}}.{{Url("""{"number":"N-2"}""")}}."}""",
            _ => $$"""{"id":1,"signed":"{{signed}}"}""",
        };
        (await RefusedAsync([row], "form: jws, at: /signed")).ShouldContain(says);
        _pulls.Rows["p"].ShouldBeEmpty();
        await RunAsync([row, $$"""{"id":2,"signed":"{{Sign("""{"number":"N-3"}""")}}"}"""], "form: jws, at: /signed, when-unverified: report, payload: confirmed, key-id: seal-1, by: by");
        var rows = _pulls.Rows["p"].Split('\n');
        JsonNode.Parse(rows[0])!["by"].ShouldBeNull();
        JsonNode.Parse(rows[0])!["confirmed"].ShouldBeNull();
        JsonNode.Parse(rows[0])!["id"]!.ToJsonString().ShouldBe("1");
        JsonNode.Parse(rows[1])!["by"]!.ToString().ShouldBe("seal-1");
    }

    [Fact]
    public async Task A_row_cannot_pass_itself_off_as_verified()
    {
        (await RefusedAsync([$$"""{"verified_by":"me","signed":"{{Sign("""{"a":1}""")}}"}"""], "form: jws, at: /signed, payload: confirmed, by: verified_by")).ShouldContain("row 1 already has a member 'verified_by'");
        (await RefusedAsync([$$"""{"signed":"{{Sign("""{"by":1}""")}}"}"""], "form: jws, at: /signed, by: by")).ShouldContain("already has a member 'by'");
        (await RefusedAsync([$$"""{"signed":"{{Sign("7")}}"}"""], "form: jws, at: /signed")).ShouldContain("is not a JSON object and cannot replace the row");
    }

    [Fact]
    public async Task Rows_that_do_not_fit_the_schema_stop_the_run_with_every_mistake()
    {
        var schema = _folder.Write("row.schema.json", """{ "type": "object", "required": ["number"], "properties": { "weight": { "type": "number", "minimum": 1 } } }""");
        await RunAsync(["""{"number":"N-1","weight":2}"""], null, $"validate: {schema}");
        _pulls.Rows["p"].ShouldBe("""{"number":"N-1","weight":2}""" + "\n");
        var what = await RefusedAsync(["""{"number":"N-1"}""", """{"weight":0}"""], null, $"validate: {schema}");
        what.ShouldContain("row 2 does not match the schema");
        what.ShouldContain("the whole: Required properties [\"number\"]");
        what.ShouldContain("/weight: 0 should be at least 1");
        (await RefusedAsync(["""{"number":"N-1"}"""], null, "validate: nowhere.json")).ShouldContain("nowhere.json of validate: cannot be used");
    }

    [Fact]
    public async Task A_body_that_does_not_fit_its_schema_is_not_sent_on_any_page()
    {
        var schema = _folder.Write("body.schema.json", """{ "type": "object", "required": ["depot"], "properties": { "from": { "maxLength": 3 }, "most": { "type": "integer", "maximum": 10 } } }""");
        var asked = new List<string>();
        HttpResponseMessage Answer(HttpRequestMessage request)
        {
            asked.Add(request.Content!.ReadAsStringAsync().Result);
            return FakeServer.Json($$"""{"items":[{"id":{{asked.Count}}}],"next":{{(asked.Count < 3 ? asked.Count == 1 ? "\"two\"" : "\"three\"" : "null")}}}""");
        }

        string Job(string body) => $"p:\n  post: /p\n  body: {{ {body} }}\n  rows: /items\n  paging: {{ cursor: /next, body-at: /from }}\n  validate-body: {schema}";
        var what = (await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync(Job("most: 11"), Answer))).Refusal.What;
        what.ShouldContain("pull 'p' was not fetched: its body does not match");
        what.ShouldContain("/most: 11 should be at most 10");
        what.ShouldContain("Required properties [\"depot\"]");
        asked.ShouldBeEmpty();

        // What paging writes into the body counts, too.
        (await Should.ThrowAsync<RefusedException>(() => _pulls.RunAsync(Job("depot: 1, most: 10"), Answer))).Refusal.What.ShouldContain("/from");
        asked.Count.ShouldBe(2);
    }

    [Fact]
    public async Task A_whole_answer_that_is_signed_gives_its_rows_the_key()
    {
        var text = Sign("""{"items":[{"id":1},{}]}""");
        await _pulls.RunAsync($"p:\n  get: /p\n  rows: /items\n  signatures: {{ answers: {{ form: jws, at: /text, key: {Key}, key-id: seal-1, by: by }} }}", _ => FakeServer.Json(new JsonObject { ["text"] = text }.ToJsonString()));
        _pulls.Rows["p"].ShouldBe("""{"id":1,"by":"seal-1"}""" + "\n" + """{"by":"seal-1"}""" + "\n");
    }

    private async Task RunAsync(IEnumerable<string> items, string? check, string more = "") =>
        await _pulls.RunAsync($"p:\n  get: /p\n  rows: /items\n  {(check is null ? "" : $"signatures: {{ rows: {{ key: {Key}, {check} }} }}")}\n  {more}", _ => FakeServer.Json($$"""{"items":[{{string.Join(',', items)}}]}"""));

    private async Task<string> RefusedAsync(IEnumerable<string> items, string? check, string more = "") => (await Should.ThrowAsync<RefusedException>(() => RunAsync(items, check, more))).Refusal.What;

    private string Sign(string payload, bool isDetached = false, ECDsa? by = null)
    {
        using var key = new ExchangeKey { Curve = ECDsa.Create((by ?? _seal).ExportParameters(true)), IsPrivate = true };
        return SignedText.Sign(Encoding.UTF8.GetBytes(payload), key, "ES256", isDetached);
    }

    private static string Url(string text) => System.Buffers.Text.Base64Url.EncodeToString(Encoding.UTF8.GetBytes(text));
}

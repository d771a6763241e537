using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Cursiva.Cli.Tests;

/// <summary>The customs desk in its three ways: rows, declarations, confirmations, lies, and each step shown.</summary>
public sealed class CustomsTests : IAsyncLifetime
{
    private const string Secret = "cana+ry /desk%7";

    private static readonly Dictionary<string, string> s_signIns = new()
    {
        ["old"] = """
            encryption:
              key: file:keys/desk.crt
              algorithm: RSA1_5
              members: [/password, /app_key]
              session-key: { send-at: /app_key, answer-at: /data/session_key, wrapped: AES-256-ECB, ends-at: /data/ends }
            token-at: /data/token
            token-ends-at: /data/ends
            header: X-Desk-Token
            """,
        ["middle"] = """
            encryption:
              key: file:keys/desk.der
              algorithm: RSA-OAEP
              at: /data
              answer-at: /data
              session-key: { send-at: /app_key, answer-at: /session_key, wrapped: AES-256-CBC }
            token-at: /token
            token-ends-at: /ends_in
            header: X-Desk-Token
            """,
        ["standard"] = """
            encryption: { key: "{cloud}/customs/keys", key-id: desk-1, content: A256GCM, session-key: { send-at: /app_key, answer-at: /session_key, wrapped: JWE } }
            """,
    };

    private static readonly Dictionary<string, string> s_bodies = new()
    {
        ["old"] = "encryption: { cipher: AES-256-ECB, request-at: /data, answer-at: /data, refused-when: { /error/code: KEY_ENDED } }",
        ["middle"] = "encryption: { cipher: AES-256-CBC, request-at: /data, answer-at: /data }",
        ["standard"] = "encryption: { cipher: JWE }\nsignatures: { answers: { form: http-message, key: \"{cloud}/customs/keys\", key-id: seal-1 } }",
    };

    private readonly TemporaryFolder _folder = new();
    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--rows", "900", "--page-size", "250", "--client-secret", Secret, "--customs-keys", _folder["keys"]);

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        _folder.Dispose();
        return ValueTask.CompletedTask;
    }

    [Fact]
    public async Task Rows_through_every_way_are_those_in_the_clear_and_no_secret_is_left()
    {
        File.WriteAllText(_folder["clear.cursiva.yaml"], $$"""
            cursiva: 1
            name: clear
            identities: { app: { grant: client_credentials, token-endpoint: {{_cloud.Address}}/oauth2/token, client-id: brackwater-demo, secret: env:BRACKWATER_SECRET } }
            apis: { exchange: { base: {{_cloud.Address}}/v2, identity: app } }
            {{Pulls}}
            """);
        (await DoAsync("run", "clear.cursiva.yaml")).ShouldEndWith(0);
        var clear = await File.ReadAllBytesAsync(_folder["reports/all.csv"]);
        foreach (var way in s_signIns.Keys)
        {
            Write(way);
            var said = new List<Ended> { (await DoAsync("run", Job(way), "--trace", $"{way}.har", "--log", "debug")).ShouldEndWith(0) };
            File.ReadAllBytes(_folder["reports/all.csv"]).ShouldBe(clear);
            foreach (string[] command in new string[][] { ["check", Job(way), "--live"], ["call", Job(way), "desk", "/me"], ["token", "get", Job(way)], ["payload", Job(way), "desk", "encrypt", Job(way)], ["run", Job(way), "--rehearse", $"{way}.har"] })
                said.Add(await DoAsync(command));
            said[1].ShouldEndWith(0).Out.ShouldContain("encrypted with " + (way == "old" ? "AES-256-ECB" : way == "middle" ? "AES-256-CBC" : "JWE") + ", and decrypted");
            said[2].ShouldEndWith(0).Out.ShouldContain("depot-export");
            said[3].ShouldEndWith(0).Out.ShouldContain("session key");
            said[4].ShouldEndWith(0).Out.ShouldNotContain("grant: session");
            said[5].ShouldEndWith(2).Error.ShouldContain("its recording cannot be decrypted");
            said.ShouldAllBe(one => !one.All.Contains(Secret, StringComparison.Ordinal) && !one.All.Contains("desk-", StringComparison.Ordinal) || one.All.Contains("desk-1", StringComparison.Ordinal));
            File.ReadAllText(_folder[$"{way}.har"]).ShouldNotContain("Low Ferry");
        }

        foreach (var file in Directory.GetFiles(_folder.Path, "*", SearchOption.AllDirectories))
            Encoding.Latin1.GetString(File.ReadAllBytes(file)).ShouldNotContain(Secret);
    }

    [Fact]
    public async Task A_declaration_is_declared_once_confirmed_and_verified()
    {
        foreach (var file in Directory.GetFiles(Path.Combine(App.Root, "examples", "customs")))
            File.Copy(file, _folder[Path.GetFileName(file)]);
        (await DoAsync("check", "declare.cursiva.yaml")).ShouldEndWith(0).Out.ShouldContain("where each number once and declared in time");
        (await DoAsync("run", "declare.cursiva.yaml", "--input", "issued=2026-03-01")).ShouldEndWith(8).Error.ShouldContain("issued today or yesterday");
        (await DoAsync("run", "declare.cursiva.yaml", "--new")).ShouldEndWith(0).Out.ShouldContain("declare 12");
        (await DoAsync("run", "declare.cursiva.yaml", "--new")).ShouldEndWith(0).Out.ShouldContain("unchanged 12");
        (await DoAsync("run", "confirmed.cursiva.yaml")).ShouldEndWith(0).Out.ShouldContain("12 of 12 expected");
        var rows = File.ReadAllLines(_folder["reports/confirmed.csv"]);
        rows.Length.ShouldBe(13);
        rows[1].ShouldStartWith("BFX-00000001,CD-");
        rows[1].ShouldEndWith(",seal-1");
        (await DoAsync("check", "confirmed.cursiva.yaml", "--live")).ShouldEndWith(0).Out.ShouldContain("12 rows verified under");

        // A confirmation that was changed stops the run, and the last good report stays.
        await BehaveAsync("changed");
        var refused = (await DoAsync("run", "confirmed.cursiva.yaml", "--new")).ShouldEndWith(5);
        refused.Error.ShouldContain("row 1 of a page of pull 'declarations' of API 'desk' does not verify");
        (await DoAsync("check", "confirmed.cursiva.yaml", "--live")).ShouldEndWith(5).Out.ShouldContain("signature");
        File.ReadAllLines(_folder["reports/confirmed.csv"]).ShouldBe(rows);
    }

    [Theory]
    [InlineData("declared in time", "declared_on between date '{first}'", "first: \"2026-03-01\"", "first: \"2026-03-20\"", "12 items do not meet declared_on")]
    [InlineData("issued today or yesterday", "left('{yesterday}', 10)", "issued: { ago: 0d", "issued: { ago: 2d", "issued today or yesterday")]
    [InlineData("each number once", "count(*) over", "reference as number", "left(reference, 5) as number", "each number once; it does not hold for BFX-0")]
    [InlineData("party that signs in", "declarant = 'brackwater'", "'brackwater' as declarant", "case when reference like '%1' then 'other' else 'brackwater' end as declarant", "it does not hold for BFX-000000")]
    public async Task A_write_that_does_not_meet_its_requirements_sends_nothing(string name, string condition, string from, string to, string says)
    {
        foreach (var file in Directory.GetFiles(Path.Combine(App.Root, "examples", "customs")))
            File.Copy(file, _folder[Path.GetFileName(file)]);
        var job = File.ReadAllText(_folder["declare.cursiva.yaml"]);
        job.ShouldContain(name);
        job.ShouldContain(condition);
        job.ShouldContain(from);
        File.WriteAllText(_folder["declare.cursiva.yaml"], job.Replace(from, to, StringComparison.Ordinal));
        (await DoAsync("run", "declare.cursiva.yaml")).ShouldEndWith(8).Error.ShouldContain(says);
        (await DoAsync("call", "confirmed.cursiva.yaml", "desk", "/declarations")).ShouldEndWith(0).Out.ShouldContain("\"total\":0");
    }

    public static TheoryData<string, string, int, string> Lies => new()
    {
        { "wrong-padding", "old", 5, "the answer of API 'desk' could not be opened: it does not open with this key" },
        { "truncated", "old", 5, "could not be opened: it does not open with this key" },
        { "truncated", "standard", 5, "changed on the way" },
        { "old-key", "old", 5, "could not be opened: it does not open with this key" },
        { "old-key", "middle", 4, "failed at the part of the answer at /data" },
        { "old-key", "standard", 5, "could not be opened: it does not open with this key" },
        { "clear", "old", 5, "answered in the clear, with status 200, and without an encrypted text at /data" },
        { "key-ended", "old", 5, "refused the session key, including that of a fresh sign-in" },
        { "key-ended", "middle", 5, "status 401" },
        { "spoilt-key", "standard", 4, "failed at the session key at /session_key of the answer" },
        { "other-environment", "old", 4, "if that key belongs to another environment" },
        { "other-environment", "standard", 4, "NOT_OPENED: the sign-in could not be opened" },
        { "other-key", "standard", 5, "does not verify: the signature is not valid" },
        { "changed", "standard", 5, "does not verify: its content does not match its Content-Digest" },
        { "replay", "standard", 5, "does not verify" },
    };

    [Theory]
    [MemberData(nameof(Lies))]
    public async Task A_desk_that_lies_is_told_and_writes_nothing(string lie, string way, int code, string says)
    {
        Write(way);
        if (lie == "replay")
            (await DoAsync("call", Job(way), "desk", "/me")).ShouldEndWith(0);
        await BehaveAsync(lie);
        var ended = (await DoAsync("run", Job(way), "--log", "debug")).ShouldEndWith(code);
        ended.Error.ShouldContain(lie == "truncated" && way == "standard" ? "five parts" : says);
        File.Exists(_folder["reports/all.csv"]).ShouldBeFalse();
        if (code == 5 && lie != "key-ended")
            (await _cloud.StatisticsAsync()).GetProperty("requests").GetInt32().ShouldBe(lie == "replay" ? 2 : 1);
    }

    [Theory]
    [InlineData("desk-ended.crt", "old", "key", "its certificate expired on")]
    [InlineData("other-environment.pem", "old", "public key", "if that key belongs to another environment")]
    [InlineData("seal.crt", "old", "key", "only for DigitalSignature")]
    [InlineData("partner.b64", "old", "public key", "this is a shared key of 256 bits")]
    public async Task A_live_check_names_the_step_that_fails(string key, string way, string step, string says)
    {
        Write(way, signIn => signIn.Replace("desk.crt", key, StringComparison.Ordinal));
        var checkedLive = (await DoAsync("check", Job(way), "--live", "--format", "json")).ShouldEndWith(4);
        var line = JsonDocument.Parse(checkedLive.Out).RootElement.GetProperty("lines").EnumerateArray().First(line => line.GetProperty("state").GetString() == "failed");
        line.GetProperty("step").GetString().ShouldBe(step);
        line.GetProperty("says").GetString().ShouldNotBeNull().ShouldContain(says);
    }

    [Theory]
    [InlineData("old")]
    [InlineData("standard")]
    public async Task An_export_comes_through_the_desk(string way)
    {
        Write(way);
        File.WriteAllText(_folder[Job(way)], File.ReadAllText(_folder[Job(way)]).Replace("consignments: { get: /consignments, rows: /items, paging: { next-link: /links/next } }", "consignments: { post: /exports?form=rows, body: { what: consignments }, export: { result: rows, every: 200ms } }"));
        (await DoAsync("run", Job(way))).ShouldEndWith(0);
        File.ReadAllLines(_folder["reports/all.csv"]).Length.ShouldBe(901);
    }

    [Fact]
    public async Task A_listing_that_is_as_last_time_keeps_what_was_verified_then()
    {
        Write("standard");
        var job = File.ReadAllText(_folder[Job("standard")]).Replace("key-id: seal-1 }", "key-id: seal-1, by: signed_by }").Replace("get: /consignments, rows: /items, paging: { next-link: /links/next }", "get: /by/unchanged, rows: /items");
        File.WriteAllText(_folder[Job("standard")], job);
        (await DoAsync("run", Job("standard"))).ShouldEndWith(0);
        var rows = File.ReadAllText(_folder["reports/all.csv"]);
        rows.ShouldContain(",seal-1");
        (await DoAsync("run", Job("standard"))).ShouldEndWith(0);
        File.ReadAllText(_folder["reports/all.csv"]).ShouldBe(rows);
        (await _cloud.StatisticsAsync()).GetProperty("statuses").GetProperty("304").GetInt32().ShouldBe(1);
    }

    [Fact]
    public async Task A_live_check_names_the_answer_and_the_signature()
    {
        Write("standard");
        await BehaveAsync("old-key");
        (await DoAsync("check", Job("standard"), "--live")).ShouldEndWith(5).Out.ShouldMatch(@"failed +answer +the answer of API 'desk' could not be opened|failed +api desk +answer ");
        await BehaveAsync("other-key");
        (await DoAsync("check", Job("standard"), "--live")).ShouldEndWith(5).Out.ShouldContain("signature");
    }

    [Fact]
    public async Task Each_step_of_a_job_is_shown_and_ones_own_output_compared_without_a_network()
    {
        Tools.Require("openssl");
        Write("old");
        File.WriteAllText(_folder["session.b64"], Convert.ToBase64String(Enumerable.Range(0, 32).Select(i => (byte)i).ToArray()));
        const string declaration = """{"number":"BFX-1","pieces":3}""";
        File.WriteAllText(_folder["declaration.json"], declaration);
        File.WriteAllText(_folder[Job("old")], File.ReadAllText(_folder[Job("old")]).Replace(_cloud.Address, "http://127.0.0.1:9", StringComparison.Ordinal));
        var key = Convert.ToHexStringLower(Enumerable.Range(0, 32).Select(i => (byte)i).ToArray());
        var theirs = (await App.RunAsync("openssl", ["enc", "-aes-256-ecb", "-K", key, "-in", "declaration.json", "-base64", "-A"], _folder.Path, [])).ShouldEndWith(0).Out;
        var ours = (await DoAsync("payload", Job("old"), "desk", "encrypt", "declaration.json", "--key", "file:session.b64", "--result")).ShouldEndWith(0).Out;
        JsonNode.Parse(ours)!["data"]!.ToString().ShouldBe(theirs.Trim());
        File.WriteAllText(_folder["answer.json"], ours);
        (await DoAsync("payload", Job("old"), "desk", "decrypt", "answer.json", "--key", "file:session.b64", "--result")).ShouldEndWith(0).Out.Trim().ShouldBe(declaration);

        var shown = (await DoAsync("payload", Job("old"), "desk", "encrypt", "declaration.json", "--key", "file:session.b64", "--compare", "answer.json")).ShouldEndWith(0);
        shown.Out.ShouldContain("envelope  the encrypted body at /data");
        shown.Out.ShouldContain("Nothing differs.");
        shown.Out.ShouldNotContain("BFX-1");
        (await DoAsync("payload", Job("old"), "desk", "encrypt", "declaration.json", "--key", "file:session.b64", "--reveal")).ShouldEndWith(0).Out.ShouldContain("BFX-1");

        var zeros = Encoding.UTF8.GetBytes(declaration).Concat(new byte[16 - (declaration.Length % 16)]).ToArray();
        File.WriteAllBytes(_folder["zeros.bin"], zeros);
        File.WriteAllText(_folder["own.txt"], (await App.RunAsync("openssl", ["enc", "-aes-256-ecb", "-K", key, "-nopad", "-in", "zeros.bin", "-base64", "-A"], _folder.Path, [])).ShouldEndWith(0).Out);
        var compared = (await DoAsync("payload", Job("old"), "desk", "encrypt", "declaration.json", "--key", "file:session.b64", "--compare", "own.txt")).ShouldEndWith(8);
        compared.Out.ShouldContain("its padding is zero bytes, not PKCS #7");
        compared.Out.ShouldContain("It begins to differ at: padding.");
        var json = JsonDocument.Parse((await DoAsync("payload", Job("old"), "desk", "encrypt", "declaration.json", "--key", "file:session.b64", "--compare", "own.txt", "--format", "json")).ShouldEndWith(8).Out).RootElement;
        json.EnumerateArray().First(step => !step.GetProperty("agrees").GetBoolean()).GetProperty("name").GetString().ShouldBe("padding");
    }

    [Theory]
    [InlineData("payload x.cursiva.yaml nobody encrypt", 2, "the job has no API, pull or write 'nobody'")]
    [InlineData("payload x.cursiva.yaml desk sign", 2, "signs no requests")]
    [InlineData("payload x.cursiva.yaml desk verify", 2, "verifies nothing")]
    [InlineData("payload x.cursiva.yaml desk validate", 2, "there is no schema")]
    [InlineData("payload x.cursiva.yaml encrypt", 2, "name an API of the job: cursiva payload JOB API encrypt")]
    [InlineData("payload encrypt", 2, "--key SOURCE")]
    public async Task What_a_step_lacks_is_said(string command, int code, string says)
    {
        Write("old");
        File.Copy(_folder[Job("old")], _folder["x.cursiva.yaml"]);
        File.WriteAllText(_folder["in.json"], "{}");
        string[] arguments = [.. command.Split(' '), "in.json"];
        (await DoAsync(arguments)).ShouldEndWith(code).Error.ShouldContain(says);
    }

    private static string Pulls => """
        pulls:
          consignments: { get: /consignments, rows: /items, paging: { next-link: /links/next } }
        reports:
          all: { sql: select * from consignments order by id, write: all.csv }
        """;

    private static string Job(string way) => $"customs-{way}.cursiva.yaml";

    private void Write(string way, Func<string, string>? change = null)
    {
        string Indent(string text) => string.Join("\n    ", text.Split('\n')).Replace("{cloud}", _cloud.Address, StringComparison.Ordinal);
        var signIn = change is null ? s_signIns[way] : change(s_signIns[way]);
        File.WriteAllText(_folder[Job(way)], $"""
            cursiva: 1
            name: customs-{way}
            identities:
              desk:
                grant: session
                token-endpoint: {_cloud.Address}/customs/{way}/sign-in
                token-body: json
                token-parameters: {"{"} user_name: brackwater, password: env:BRACKWATER_SECRET {"}"}
                {Indent(signIn)}
            apis:
              desk:
                base: {_cloud.Address}/customs/{way}/v2
                identity: desk
                probe: {"{"} get: /me {"}"}
                {Indent(s_bodies[way])}
            {Pulls}
            """);
    }

    private Task<Ended> DoAsync(params string[] arguments) =>
        App.RunAsync(App.Cursiva, arguments, _folder.Path, [("CURSIVA_STATE", _folder["state"]), ("BRACKWATER_SECRET", Secret), ("CURSIVA_INPUT_CLOUD", _cloud.Address)]);

    private async Task BehaveAsync(string manner)
    {
        using var http = new HttpClient();
        (await http.PutAsync(_cloud.Address + "/customs/manner", new StringContent(manner))).EnsureSuccessStatusCode().Dispose();
    }
}

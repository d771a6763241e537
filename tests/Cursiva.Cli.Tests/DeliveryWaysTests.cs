using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>Reports by SFTP, rows into a table and messages to an address, at real servers where there are any.</summary>
public sealed class DeliveryWaysTests(RealServers servers) : IAsyncLifetime, IClassFixture<RealServers>
{
    private const string Reports = """
        late:
          title: Late consignments
          sql: select depot, reference from consignments order by reference
          write: [late.csv, late.json]
        """;

    private const string TableSql = "select reference, weight_kg, pieces, cast(due_at as timestamptz) as due_at, fragile, goods, null as nothing, '' as empty, 'a \"b\", c' || chr(10) || 'æ' as odd from consignments";

    private StandIn _cloud = null!;
    private string _database = "none";

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "60");

    public ValueTask DisposeAsync()
    {
        _cloud?.Dispose();
        return ValueTask.CompletedTask;
    }

    [Fact]
    public async Task Files_are_put_by_SFTP_under_their_names_alone()
    {
        var server = await servers.SshAsync();
        using var job = SftpJob(server, "path: 'in box/{run.number}'");
        (await RunAsync(job)).ShouldEndWith(0).Out.ShouldContain("Delivered");
        Directory.GetFiles(server.Home, "*", SearchOption.AllDirectories).Select(file => Path.GetRelativePath(server.Home, file)).Order(StringComparer.Ordinal).ShouldBe(["in box/1/late.csv", "in box/1/late.json"]);
        File.ReadAllBytes(Path.Combine(server.Home, "in box/1/late.csv")).ShouldBe(File.ReadAllBytes(job["reports/late.csv"]));
        (await RunAsync(job, "--new")).ShouldEndWith(0);
        Directory.GetDirectories(Path.Combine(server.Home, "in box")).Length.ShouldBe(2);
    }

    [Fact]
    public async Task A_file_that_is_there_is_replaced_by_SFTP()
    {
        var server = await servers.SshAsync();
        using var job = SftpJob(server, "path: .");
        File.WriteAllText(Path.Combine(server.Home, "late.csv"), "yesterday's");
        (await RunAsync(job)).ShouldEndWith(0);
        File.ReadAllText(Path.Combine(server.Home, "late.csv")).ShouldStartWith("depot,reference");
    }

    [Theory]
    [InlineData("host-key: SHA256:uNiVztksCsDhcc0u9e8BrrMBSM7P+WsFAmM2V6hOaSo", "shows the key SHA256:")]
    [InlineData("user: nobody-here", "refused the sign-in of 'nobody-here'")]
    [InlineData("path: blocked", "does not accept it")]
    [InlineData("key-password: env:BRACKWATER_SECRET", "the private key of file:")]
    public async Task A_server_that_does_not_take_files_is_told_and_nothing_is_lost(string line, string said)
    {
        var server = await servers.SshAsync();
        using var job = SftpJob(server, "path: in");
        var key = line.Split(':')[0];
        job.Yaml = string.Join('\n', job.Yaml.Split('\n').Select(text => text.TrimStart().StartsWith(key + ":") && text.StartsWith("      ") ? $"      {line}" : text));
        job.Save();
        File.WriteAllText(Path.Combine(server.Home, "blocked"), "a file where a folder should be");
        (await RunAsync(job)).ShouldEndWith(9).Error.ShouldContain(said);
        Directory.GetFiles(server.Home, "*", SearchOption.AllDirectories).ShouldHaveSingleItem();
        File.Delete(Path.Combine(server.Home, "blocked"));
        (await job.DoAsync(["ledger", job.Path])).Out.ShouldContain("ready");
        job.Yaml = SftpJob(server, "path: in").Yaml;
        job.Save();
        (await DeliverAsync(job)).ShouldEndWith(0);
        Directory.GetFiles(server.Home, "*", SearchOption.AllDirectories).Length.ShouldBe(2);
    }

    [Fact]
    public async Task Rows_come_into_a_table_with_every_digit()
    {
        var server = await servers.PostgresAsync();
        _database = await server.DatabaseAsync();
        using var job = TableJob(server, "rows: merge, key: [reference]", TableSql);
        (await RunAsync(job)).ShouldEndWith(0).Out.ShouldContain("Delivered");
        (await server.AskAsync("select count(*), count(distinct reference) from late", _database)).ShouldBe("60|60");
        (await server.AskAsync("select column_name, data_type from information_schema.columns where table_name = 'late' order by ordinal_position", _database)).Split('\n').ShouldContain("weight_kg|numeric");
        var expected = JsonDocument.Parse(File.ReadAllText(job["reports/late.json"])).RootElement.EnumerateArray().ToDictionary(row => row.GetProperty("reference").ToString(), row => row.GetProperty("weight_kg").GetRawText());
        var there = (await server.AskAsync("select reference, weight_kg from late", _database)).Split('\n').ToDictionary(line => line.Split('|')[0], line => line.Split('|')[1]);
        there.ShouldBe(expected, ignoreOrder: true);
        (await server.AskAsync("select distinct nothing is null, empty = '', odd = 'a \"b\", c' || chr(10) || 'æ' from late", _database)).ShouldBe("t|t|t");
        (await server.AskAsync("select data_type from information_schema.columns where table_name = 'late' and column_name = 'due_at'", _database)).ShouldBe("timestamp with time zone");
        (await RunAsync(job, "--new")).ShouldEndWith(0);
        (await server.AskAsync("select count(*) from late", _database)).ShouldBe("60");
        (await server.AskAsync("select count(*) from cursiva_ledger", _database)).ShouldBe("2");
    }

    [Theory]
    [InlineData("rows: replace", 60)]
    [InlineData("rows: append", 62)]
    [InlineData("rows: merge, key: [reference]", 62)]
    public async Task Rows_that_are_there_go_or_stay(string rows, int count)
    {
        var server = await servers.PostgresAsync();
        _database = await server.DatabaseAsync();
        await server.AskAsync("create schema own; create table own.late (reference text, weight_kg numeric, more text default 'kept'); insert into own.late values ('other', 1.50, 'mine'), ('another', 2, 'mine')", _database);
        using var job = TableJob(server, $"table: own.late, {rows}", "select reference, weight_kg from consignments");
        (await RunAsync(job)).ShouldEndWith(0);
        (await server.AskAsync("select count(*) from own.late", _database)).ShouldBe($"{count}");
        (await server.AskAsync("update own.late set weight_kg = -1 where more = 'kept'; select count(*) from own.late where weight_kg = -1", _database)).ShouldBe("60");
        (await RunAsync(job, "--new")).ShouldEndWith(0);
        (await server.AskAsync("select count(*) from own.late where weight_kg = -1", _database)).ShouldBe(rows.Contains("append") ? "60" : "0");
    }

    [Theory]
    [InlineData("create table late (reference text)", "has no column 'weight_kg'; it has reference")]
    [InlineData("create table late (reference text, weight_kg double precision)", "'weight_kg' is double precision there and numeric")]
    [InlineData("create table late (reference text, weight_kg numeric(8,1))", "'weight_kg' is numeric(8,1) there and numeric")]
    [InlineData("create table late (reference varchar(3), weight_kg numeric)", "22001")]
    [InlineData("create table late (reference text check (reference = ''), weight_kg numeric)", "23514")]
    public async Task A_table_that_would_not_keep_the_rows_refuses_them_all(string table, string said)
    {
        var server = await servers.PostgresAsync();
        _database = await server.DatabaseAsync();
        await server.AskAsync(table, _database);
        using var job = TableJob(server, "rows: append", "select reference, weight_kg from consignments");
        (await RunAsync(job)).ShouldEndWith(9).Error.ShouldContain(said);
        (await server.AskAsync("select count(*) from late", _database)).ShouldBe("0");
        await server.AskAsync("drop table late", _database);
        (await job.DoAsync(["ledger", job.Path, "--again", "to-the-table-1"])).ShouldEndWith(0);
        (await DeliverAsync(job)).ShouldEndWith(0);
        (await server.AskAsync("select count(*) from late", _database)).ShouldBe("60");
    }

    [Theory]
    [InlineData("select depot, reference from consignments", "key: [depot]", "has two rows with depot")]
    [InlineData("select nullif(reference, reference) as reference from consignments", "key: [reference]", "rows without a value in reference")]
    [InlineData("select depot from consignments", "key: [reference]", "has no column 'reference'")]
    [InlineData("select nothing from consignments", "key: [reference]", "the SQL of delivery 'to-the-table' failed")]
    public async Task Rows_that_no_key_tells_apart_are_told_before_anything_is_sent(string sql, string key, string said)
    {
        using var job = TableJob(null, $"rows: merge, {key}", sql);
        (await RunAsync(job)).ShouldEndWith(8).Error.ShouldContain(said);
    }

    [Fact]
    public async Task The_certificate_of_a_database_is_checked()
    {
        var server = await servers.PostgresAsync();
        _database = await server.DatabaseAsync();
        using var job = TableJob(server, "rows: append", "select reference from consignments", "tls");
        (await RunAsync(job)).ShouldEndWith(9).Error.ShouldContain("cannot be used");
        File.Copy(server.Authority, job["ca.pem"]);
        job.Yaml = job.Yaml.Replace("security: tls", "security: tls, trust: ca.pem");
        job.Save();
        (await DeliverAsync(job)).ShouldEndWith(0);
        (await server.AskAsync("select count(*) from late", _database)).ShouldBe("60");
    }

    [Fact]
    public async Task A_process_that_ends_at_any_send_leaves_whole_files_by_SFTP()
    {
        Tools.Require("strace");
        var server = await servers.SshAsync();
        using var job = SftpJob(server, "path: in");
        foreach (var moment in new[] { 6, 12, 18, 22, 26, 30 })
        {
            await KilledAsync(job, moment);
            foreach (var file in Directory.GetFiles(server.Home, "*", SearchOption.AllDirectories).Where(file => !file.EndsWith(".part", StringComparison.Ordinal)))
                File.ReadAllBytes(file).ShouldBe(File.ReadAllBytes(job[$"reports/{Path.GetFileName(file)}"]), $"killed at send {moment}");
            (await RunAsync(job)).ShouldEndWith(0);
            Directory.GetFiles(server.Home, "*", SearchOption.AllDirectories).Select(Path.GetFileName).Order(StringComparer.Ordinal).ToList().ShouldBe(["late.csv", "late.json"], customMessage: $"killed at send {moment}");
            Directory.Delete(Path.Combine(server.Home, "in"), recursive: true);
        }
    }

    [Theory]
    [InlineData("put: { put: '/drawer/{file.name}', file: body }")]
    [InlineData("open: { post: '/drawer/{file.name}/pieces' }, put: { put: '{open.link}', file: pieces, piece-size: 1 }")]
    public async Task A_process_that_ends_at_any_send_uploads_whole_files(string steps)
    {
        Tools.Require("strace");
        using var job = await UploadJobAsync(steps);
        foreach (var moment in new[] { 3, 5, 6, 7 })
        {
            await KilledAsync(job, moment);
            var ended = await RunAsync(job);

            // A POST whose answer nobody saw is nobody's to repeat without being asked.
            if (ended.Code == 9 && steps.Contains("post:", StringComparison.Ordinal))
            {
                ended.Error.ShouldContain("to-the-drawer-1 is in doubt");
                (await job.DoAsync(["ledger", job.Path, "--again", "to-the-drawer-1"])).ShouldEndWith(0);
                (await DeliverAsync(job)).ShouldEndWith(0);
            }
            else
            {
                ended.ShouldEndWith(0);
            }

            var files = (await OfficeAsync()).GetProperty("files");
            files.EnumerateObject().Select(file => file.Name).Order(StringComparer.Ordinal).ShouldBe(["late.csv", "late.json"]);
            foreach (var file in files.EnumerateObject())
                file.Value.GetProperty("sha256").GetString().ShouldBe(Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(File.ReadAllBytes(job[$"reports/{file.Name}"]))), $"killed at send {moment}");
        }
    }

    [Fact]
    public async Task A_process_that_ends_at_any_flush_brings_the_rows_in_once()
    {
        Tools.Require("strace");
        var server = await servers.PostgresAsync();
        _database = await server.DatabaseAsync();
        using var job = TableJob(server, "rows: append", "select reference from consignments");
        foreach (var moment in new[] { 1, 3, 5, 6, 7, 8, 10, 14, 18 })
        {
            await server.AskAsync("drop table if exists late", _database);
            await KilledAsync(job, moment);
            (await RunAsync(job)).ShouldEndWith(0);
            (await DeliverAsync(job)).ShouldEndWith(0);
            var runs = (await server.AskAsync("select count(*) from late", _database));
            runs.ShouldBe((await job.DoAsync(["runs", "list", job.Path])).Out.Split('\n').Count(line => line.Contains("done")) == 2 ? "120" : "60", $"killed at send {moment}");
        }
    }

    [Theory]
    [InlineData("put: { put: '/drawer/{file.name}', file: body, content-digest: true }")]
    [InlineData("put: { post: /drawer, file: form, form-field: upload, form-fields: { title: 'the {file.name}', key: 'env:KEY_PASSWORD' } }")]
    [InlineData("open: { post: '/drawer/{file.name}/pieces' }, put: { put: '{open.link}', file: pieces, piece-size: 1 }")]
    [InlineData("find: { get: '/drawer{?name}', query: { name: '{file.name}' }, rows: /items, where: { /name: '{file.name}' }, expect: at-most-one }, drop: { when: found, delete: '/drawer/{file.name}' }, put: { put: '/drawer/{file.name}', file: body }")]
    public async Task Files_are_uploaded_whole_once(string steps)
    {
        using var job = await UploadJobAsync(steps);
        (await RunAsync(job)).ShouldEndWith(0).Out.ShouldContain("Delivered");
        (await RunAsync(job, "--new")).ShouldEndWith(0);
        var office = await OfficeAsync();
        foreach (var name in new[] { "late.csv", "late.json" })
        {
            var file = office.GetProperty("files").GetProperty(name);
            file.GetProperty("sha256").GetString().ShouldBe(Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(File.ReadAllBytes(job[$"reports/{name}"]))));
            if (steps.Contains("content-digest"))
                file.GetProperty("digest").GetString().ShouldBe($"sha-256=:{Convert.ToBase64String(Convert.FromHexString(file.GetProperty("sha256").GetString()!))}:");
            if (steps.Contains("form"))
                file.GetProperty("fields").GetRawText().ShouldBe($"{{\"title\":\"the {name}\",\"key\":\"key pass\"}}");
            if (steps.Contains("form"))
                file.GetProperty("field").GetString().ShouldBe("upload");
        }

        (await _cloud.StatisticsAsync()).GetProperty("credentials_elsewhere").GetInt64().ShouldBe(0);
        Directory.GetFiles(job.State, "*", SearchOption.AllDirectories).ShouldNotContain(path => path.Contains("/outbox/"));
    }

    [Theory]
    [InlineData("put: { put: '/drawer/{file.name}', file: body }", "lose-one-answer", 0, 3)]
    [InlineData("open: { post: '/drawer/{file.name}/pieces' }, put: { put: '{open.link}', file: pieces, piece-size: 1 }", "lose-one-piece", 0, 2)]
    [InlineData("put: { post: /drawer, file: form }", "lose-one-answer", 9, 2)]
    public async Task An_upload_whose_answer_is_lost_is_repeated_where_that_does_nothing_twice(string steps, string manner, int code, int puts)
    {
        using var job = await UploadJobAsync(steps);
        await BehaveAsync(manner);
        var ended = (await RunAsync(job)).ShouldEndWith(code);
        if (code == 9)
            ended.Error.ShouldContain("to-the-drawer-1 is in doubt");
        (await OfficeAsync()).GetProperty("counts").GetProperty("files-put").GetInt64().ShouldBe(puts);
        if (code != 9)
            return;
        (await DeliverAsync(job)).ShouldEndWith(9);
        (await job.DoAsync(["ledger", job.Path, "--again", "to-the-drawer-1"])).ShouldEndWith(0);
        (await DeliverAsync(job)).ShouldEndWith(0);
        (await OfficeAsync()).GetProperty("counts").GetProperty("files-put").GetInt64().ShouldBe(puts + 1);
    }

    [Fact]
    public async Task An_upload_that_is_refused_is_told_and_the_other_files_are_there()
    {
        using var job = await UploadJobAsync("put: { put: '/drawer/{file.name}', file: body }");
        await BehaveAsync("refuse");
        (await RunAsync(job)).ShouldEndWith(9).Error.ShouldContain("status 403");
        await BehaveAsync("");
        (await job.DoAsync(["ledger", job.Path, "--again", "to-the-drawer-1"])).ShouldEndWith(0);
        (await DeliverAsync(job)).ShouldEndWith(0);
        (await OfficeAsync()).GetProperty("counts").GetProperty("files-put").GetInt64().ShouldBe(2);
    }

    [Fact]
    public async Task A_message_is_posted_to_a_secret_address()
    {
        using var job = MessageJob("body: { text: 'Run {run.number} of {run.job}: {run.rows} late', level: 2 }");
        (await RunAsync(job)).ShouldEndWith(0).Out.ShouldNotContain("desk-channel-0815");
        (await OfficeAsync()).GetProperty("messages").GetRawText().ShouldBe("[{\"text\":\"Run 1 of Late: 60 late\",\"level\":2}]");
        foreach (var file in Directory.GetFiles(job.State, "*", SearchOption.AllDirectories))
            File.ReadAllBytes(file).AsSpan().IndexOf("desk-channel-0815"u8).ShouldBe(-1, file);
    }

    [Fact]
    public async Task A_run_that_fails_is_told_to_the_address()
    {
        using var job = MessageJob("", "when: failed");
        job.Yaml = job.Yaml.Replace("report: late, ", "").Replace("/consignments", "/odd/status/404");
        job.Save();
        (await RunAsync(job)).ShouldEndWith(5);
        var text = (await OfficeAsync()).GetProperty("messages")[0].GetProperty("text").GetString()!;
        text.ShouldContain("status 404");
        text.ShouldContain("next: ");
        text.ShouldContain("Run 1 of Late");
    }

    [Theory]
    [InlineData("refuse", "refused", "answered with status 403: {\"code\":\"not_yours\"")]
    [InlineData("busy", "in doubt", "answered with status 503")]
    [InlineData("lose-answers", "in doubt", "gave no complete answer")]
    public async Task An_address_that_does_not_take_a_message_is_told(string manner, string state, string said)
    {
        using var job = MessageJob("");
        await BehaveAsync(manner);
        var ended = (await RunAsync(job)).ShouldEndWith(9);
        ended.Error.ShouldContain($"to-the-desk-1 is {state}");
        ended.Error.ShouldContain(said);
        ended.All.ShouldNotContain("desk-channel-0815");
        (await OfficeAsync()).GetProperty("messages").GetArrayLength().ShouldBe(manner == "lose-answers" ? 1 : 0);
    }

    [Fact]
    public async Task A_message_that_is_too_large_is_not_sent()
    {
        using var job = MessageJob($"largest: 100, body: {{ text: '{new string('x', 200)}' }}");
        (await RunAsync(job)).ShouldEndWith(9).Error.ShouldContain("the message has 211 bytes, and largest: allows 100");
        (await OfficeAsync()).GetProperty("messages").GetArrayLength().ShouldBe(0);
        (await job.DoAsync(["ledger", job.Path, "--again", "to-the-desk-1"])).ShouldEndWith(2).Error.ShouldContain("nothing was stored");
    }

    // From nothing, a process that ends at one of the moments when it sends something.
    private static async Task KilledAsync(Job job, int moment)
    {
        if (Directory.Exists(job.State))
            Directory.Delete(job.State, recursive: true);
        await App.RunAsync("strace", ["-f", "-o", "/dev/null", "-e", "trace=sendto,sendmsg", "-e", $"inject=sendto,sendmsg:signal=KILL:when={moment}", App.Cursiva, "run", job.Path], job.Folder, [.. job.Environment, ("DATABASE", PostgresServer.Password), ("KEY_PASSWORD", "key pass")]);
    }

    private Task<Ended> RunAsync(Job job, params string[] arguments) => DoAsync(job, ["run", job.Path, .. arguments]);

    private Task<Ended> DeliverAsync(Job job) => DoAsync(job, ["deliver", job.Path]);

    private Task<Ended> DoAsync(Job job, string[] arguments) => job.DoAsync(arguments, null, ("KEY_PASSWORD", "key pass"), ("DATABASE", PostgresServer.Password), ("CHANNEL", $"{_cloud.Address}/hooks/desk-channel-0815"));

    private Job SftpJob(SshServer server, string path) => Deliver($"""
          to-the-partner:
            report: late
            sftp:
              server: 127.0.0.1:{server.Port}
              host-key: {server.HostKey}
              user: {Environment.UserName}
              private-key: file:{server.UserKey}
              key-password: env:KEY_PASSWORD
              {path}
        """);

    private Job TableJob(PostgresServer? server, string keys, string sql, string security = "none") => Deliver($"  to-the-table: {{ table: {{ server: '127.0.0.1:{server?.Port ?? 1}', security: {security}, database: {_database}, user: exporter, password: env:DATABASE, {(keys.Contains("table:") ? "" : "table: late, ")}{keys}, sql: {JsonSerializer.Serialize(sql)} }} }}");

    private async Task<Job> UploadJobAsync(string steps)
    {
        var job = Deliver($"  to-the-drawer: {{ report: late, upload: {{ steps: {{ {steps} }} }} }}");
        job.Yaml = job.Yaml.Replace("    identity: app\n", $"    identity: app\n    also-origins: {{ '{await _cloud.ElsewhereAsync()}': bare }}\n");
        job.Save();
        return job;
    }

    private Job MessageJob(string keys, string more = "") => Deliver($"  to-the-desk: {{ report: late, {(more.Length > 0 ? more + ", " : "")}message: {{ address: env:CHANNEL{(keys.Length > 0 ? ", " + keys : "")} }} }}");

    private Job Deliver(string deliveries)
    {
        var job = new Job(_cloud.Address, "consignments: { get: /consignments, rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }", Reports.Replace("depot, reference", deliveries.Contains("table:") ? "reference, weight_kg" : "depot, reference"), top: "title: Late");
        job.Yaml += "\ndeliveries:\n" + deliveries;
        job.Save();
        return job;
    }

    private Task<JsonElement> OfficeAsync() => _cloud.OfficeAsync();

    private Task BehaveAsync(string manner) => _cloud.BehaveAsync(manner);
}

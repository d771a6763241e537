using System.Text;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.State;
using Cursiva.Core.Tables;
using Cursiva.Core.Tests.Http;
using Cursiva.Core.Tests.Identity;

namespace Cursiva.Core.Tests.Security;

/// <summary>What has no end, or is larger than anybody meant, ends in a refusal.</summary>
public sealed class BoundsTests : IAsyncDisposable
{
    private readonly TemporaryFolder _folder = new();
    private readonly SignInFixture _fixture = new();

    public async ValueTask DisposeAsync()
    {
        await _fixture.DisposeAsync();
        _folder.Dispose();
    }

    public static TheoryData<string, string> HostileYaml() => new()
    {
        { "cursiva: &a { b: *a }\n", "is inside its own anchor" },
        { "cursiva: &a [*a]\n", "is inside its own anchor" },
        { "a: *nobody\n", "has no anchor above it" },
        { "a: &a [x,x,x,x,x,x,x,x,x,x]\n" + string.Concat("bcdefghij".Select((c, i) => $"{c}: &{c} [{string.Join(',', Enumerable.Repeat("*" + (char)(c - 1), 10))}]\n")), "its aliases expanded" },
        { new string('[', 5000), "levels are nested" },
        { string.Concat(Enumerable.Repeat("- ", 5000)) + "x", "levels are nested" },
        { "a: " + new string('x', YamlGuard.LargestFile), "at most" },
        { "x: {" + string.Join(',', Enumerable.Range(0, 250_000).Select(i => $"a{i}: b")) + "}", "the file has more than" },
    };

    [Theory]
    [MemberData(nameof(HostileYaml))]
    public void A_file_that_multiplies_or_eats_the_stack_is_a_mistake(string yaml, string found) =>
        Should.Throw<JobMistakesException>(() => JobReader.Read(_folder.Write("job.cursiva.yaml", yaml), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch))
            .Mistakes.ShouldContain(mistake => mistake.Found.Contains(found, StringComparison.Ordinal));

    [Fact]
    public void Twenty_thousand_queries_are_a_mistake() =>
        Should.Throw<JobMistakesException>(() => JobReader.Read(_folder.Write("job.cursiva.yaml", "cursiva: 1\napis: { x: { base: https://x.example } }\npulls: { p: { get: /, rows: '' } }\nviews:\n" + string.Concat(Enumerable.Range(0, 20_000).Select(i => $"  q{i}: select 1\n"))), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch))
            .Mistakes.Single().Found.ShouldBe("views in the job has 20,000 names");

    [Fact]
    public void Anchors_that_people_write_are_read() =>
        JobReader.Read(_folder.Write("job.cursiva.yaml", "cursiva: 1\napis: { x: { base: https://x.example } }\npulls:\n  a: &a { get: /a, rows: /items }\n  b: *a\n"), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch).Pulls.Count.ShouldBe(2);

    [Theory]
    [InlineData("Retry-After", "9999999")]
    [InlineData("Retry-After", "2147483647")]
    [InlineData("Retry-After", "Fri, 31 Dec 9999 23:59:59 GMT")]
    public async Task A_pause_of_weeks_ends_the_run_and_says_until_when(string header, string value)
    {
        var server = new FakeServer((_, _) =>
        {
            var answer = FakeServer.Json("{}", 429);
            answer.Headers.TryAddWithoutValidation(header, value);
            return answer;
        });
        var refusal = await RefusedAsync(server);
        refusal.Outcome.ShouldBe(Outcome.StoppedResumable);
        refusal.What.ShouldContain("longer than longest-pause: 1 h 00 min");
        refusal.NextStep!.ShouldContain("run again after");
        server.Requests.Count.ShouldBe(1);
    }

    [Theory]
    [InlineData("RateLimit-Reset", "99999999")]
    [InlineData("X-RateLimit-Reset", "99999999999")]
    public async Task A_quota_that_is_back_in_weeks_ends_the_run(string reset, string value)
    {
        var server = new FakeServer((_, _) =>
        {
            var answer = FakeServer.Json("{}");
            answer.Headers.TryAddWithoutValidation(reset.Replace("Reset", "Remaining"), "0");
            answer.Headers.TryAddWithoutValidation(reset, value);
            return answer;
        });
        (await RefusedAsync(server)).Outcome.ShouldBe(Outcome.StoppedResumable);
        server.Requests.Count.ShouldBe(1);
    }

    [Fact]
    public async Task The_token_endpoint_is_not_waited_for_for_hours()
    {
        var server = new FakeServer((_, _) =>
        {
            var answer = FakeServer.Json("""{"error":"slow","error_description":"too many"}""", 429);
            answer.Headers.TryAddWithoutValidation("Retry-After", "9999999");
            return answer;
        });
        using var source = new TokenSource(SignInFixture.Identity(), _fixture.Services(server));
        var refusal = (await Should.ThrowAsync<RefusedException>(() => source.GetAsync(default))).Refusal;
        refusal.What.ShouldContain("asks for a pause of 115 days");
        server.Requests.Count.ShouldBe(1);
    }

    [Fact]
    public async Task A_device_code_with_an_interval_of_weeks_is_refused()
    {
        var server = new FakeServer((_, _) => FakeServer.Json("""{"device_code":"d","user_code":"u","verification_uri":"https://login.example/device","interval":9999999,"expires_in":900}"""));
        var identity = SignInFixture.Identity(Grants.DeviceCode) with { DeviceAuthorizationEndpoint = new Uri("https://login.example/device") };
        var refusal = (await Should.ThrowAsync<RefusedException>(() => new PersonSignIn(identity, _fixture.Services(server), new Nobody()).ByDeviceAsync(default))).Refusal;
        refusal.What.ShouldContain("between two polls");
    }

    [Theory]
    [InlineData("file:///etc/passwd")]
    [InlineData("javascript:alert(1)")]
    [InlineData("http://login.example/device")]
    public async Task A_person_is_sent_to_a_web_page_and_to_nothing_else(string address)
    {
        var server = new FakeServer((_, _) => FakeServer.Json($$"""{"device_code":"d","user_code":"u","verification_uri":"{{address}}","expires_in":900}"""));
        var identity = SignInFixture.Identity(Grants.DeviceCode) with { DeviceAuthorizationEndpoint = new Uri("https://login.example/device") };
        await Should.ThrowAsync<RefusedException>(() => new PersonSignIn(identity, _fixture.Services(server), new Nobody()).ByDeviceAsync(default));
    }

    [Fact]
    public async Task A_field_of_CSV_whose_quote_is_never_closed_is_refused()
    {
        using var reader = new StreamReader(new Endless("a,b\n\"x"u8.ToArray()));
        await Should.ThrowAsync<CsvHelper.MaxFieldSizeException>(async () =>
        {
            await foreach (var _ in CsvRows.ReadAsync(reader, 1024 * 1024, default))
            {
            }
        });
    }

    [Fact]
    public async Task A_stream_is_bounded_and_can_be_stopped()
    {
        using var large = new BoundedStream(new Endless([]), 1024 * 1024, default);
        (await Should.ThrowAsync<RefusedException>(() => large.CopyToAsync(Stream.Null))).Refusal.NextStep!.ShouldContain("largest-file:");
        using var stop = new CancellationTokenSource();
        using var stopped = new BoundedStream(new Endless([]), long.MaxValue, stop.Token);
        await stop.CancelAsync();
        await Should.ThrowAsync<OperationCanceledException>(() => stopped.CopyToAsync(Stream.Null));
    }

    [Fact]
    public void Names_that_are_data_are_refused_before_they_become_a_table_of_thousands()
    {
        var shape = new RowShape([], []);
        for (var i = 0; i < 2000; i++)
            shape.AddColumn($"key{i}");
        Should.Throw<TableException>(() => shape.AddColumn("one more")).Message.ShouldContain("list the columns under columns:");
        new RowShape([], []).AddColumn("a\0b").Name.ShouldBe("a\\u0000b");
    }

    [Fact]
    public async Task SQL_without_end_is_stopped()
    {
        using var stop = new CancellationTokenSource();
        using var database = new Database(_folder.Path, 64 * 1024 * 1024, cancel: stop.Token);
        var running = Task.Run(() => database.All("with recursive r(n) as (select 1::bigint union all select n + 1 from r where n > 0) select max(n)::varchar from r"));
        stop.CancelAfter(300);
        await Should.ThrowAsync<OperationCanceledException>(() => running.WaitAsync(TimeSpan.FromSeconds(20)));
        Should.Throw<OperationCanceledException>(() => database.All("select '1'"));
    }

    [Fact]
    public void Spill_has_a_cap()
    {
        using var database = new Database(_folder.Path, 64 * 1024 * 1024, spill: 1024 * 1024);
        Should.Throw<SqlException>(() => database.Execute("create table t as select (random() * 1e9)::bigint as a, uuid() as b from range(5000000) order by a")).Message.ShouldContain("max_temp_directory_size");
    }

    private async Task<Refusal> RefusedAsync(FakeServer server)
    {
        var services = _fixture.Services(server);
        var api = new Api("exchange", new Place("job"), new Uri("https://api.example"), null, new Dictionary<string, DeclaredValue>(), new Dictionary<string, DeclaredValue>(), new Limits([], 1), 6, TimeSpan.FromSeconds(5), 1024);
        using var signIns = new SignIns(services);
        await using var client = await ApiClients.OpenAsync(api, null, signIns, services, default);
        return (await Should.ThrowAsync<RefusedException>(async () =>
        {
            for (var i = 0; i < 3; i++)
                (await client.GetAsync(client.Address("/x"), default)).Dispose();
        })).Refusal;
    }

    private sealed class Nobody : IPerson
    {
        public void Visit(Uri address, Uri redirect)
        {
        }

        public void Enter(string code, Uri address, Uri? complete, TimeSpan within)
        {
        }

        public Task<string> PasteAsync(CancellationToken cancel) => Task.FromResult("");
    }

    /// <summary>A beginning, and the letter x for ever.</summary>
    private sealed class Endless(byte[] beginning) : Stream
    {
        private int _at;

        public override bool CanRead => true;

        public override bool CanSeek => false;

        public override bool CanWrite => false;

        public override long Length => throw new NotSupportedException();

        public override long Position { get => throw new NotSupportedException(); set => throw new NotSupportedException(); }

        public override int Read(byte[] buffer, int offset, int count)
        {
            for (var i = 0; i < count; i++)
                buffer[offset + i] = _at < beginning.Length ? beginning[_at++] : (byte)'x';
            return count;
        }

        public override ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
        {
            cancellationToken.ThrowIfCancellationRequested();
            var bytes = new byte[Math.Min(buffer.Length, 65536)];
            var count = Read(bytes, 0, bytes.Length);
            bytes.AsSpan(0, count).CopyTo(buffer.Span);
            return ValueTask.FromResult(count);
        }

        public override void Flush() => throw new NotSupportedException();

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();

        public override void SetLength(long value) => throw new NotSupportedException();

        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }
}

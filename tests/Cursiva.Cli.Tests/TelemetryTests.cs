using System.Collections.Concurrent;
using System.Net;
using System.Net.Sockets;
using System.Text;

namespace Cursiva.Cli.Tests;

/// <summary>What leaves for monitors while a job runs: OTLP, read by a small receiver of our own, and the journal.</summary>
public sealed class TelemetryTests
{
    [Fact]
    public async Task The_numbers_and_the_trace_of_a_run_reach_a_collector_and_no_secret_with_them()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "200", "--fail-every", "3");
        using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All, api: "query: { key: env:BRACKWATER_SECRET }");
        using var collector = new Collector();
        (await job.DoAsync(["run", job.Path, "--metrics", "run.prom"], null, ("OTEL_EXPORTER_OTLP_ENDPOINT", collector.Address), ("OTEL_EXPORTER_OTLP_PROTOCOL", "http/protobuf"), ("OTEL_RESOURCE_ATTRIBUTES", "deployment.environment=test"))).ShouldEndWith(0);
        var metrics = collector.Received["/v1/metrics"].SelectMany(Texts).ToList();
        foreach (var name in File.ReadLines(job["run.prom"]).Where(line => line.StartsWith("cursiva_", StringComparison.Ordinal)).Select(line => line.Split('{')[0]).Distinct())
            metrics.ShouldContain(name);
        metrics.ShouldContain("deployment.environment");
        Doubles(collector.Received["/v1/metrics"].Single()).ShouldContain(200.0, "the rows of the pull");
        var spans = collector.Received["/v1/traces"].SelectMany(Texts).ToList();
        spans.ShouldContain("run late");
        spans.ShouldContain("pulls");
        spans.Count(text => text == "GET").ShouldBeGreaterThan(3);
        spans.ShouldContain(text => text.StartsWith(cloud.Address + "/v2/consignments", StringComparison.Ordinal));
        foreach (var text in spans.Concat(metrics))
        {
            text.ShouldNotContain(Job.Secret);
            text.ShouldNotContain(Uri.EscapeDataString(Job.Secret));
        }

        // Nobody there, or switched off: the run is as good.
        (await job.DoAsync(["run", job.Path, "--new"], null, ("OTEL_EXPORTER_OTLP_ENDPOINT", "http://127.0.0.1:9"), ("OTEL_EXPORTER_OTLP_PROTOCOL", "http/protobuf"))).ShouldEndWith(0);
        collector.Received.Clear();
        (await job.DoAsync(["run", job.Path, "--new"], null, ("OTEL_EXPORTER_OTLP_ENDPOINT", collector.Address), ("OTEL_EXPORTER_OTLP_PROTOCOL", "http/protobuf"), ("OTEL_SDK_DISABLED", "true"))).ShouldEndWith(0);
        collector.Received.ShouldBeEmpty();
    }

    [Fact]
    public async Task The_journal_gets_priorities_and_fields()
    {
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "60");
        using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All);
        using var journal = new Socket(AddressFamily.Unix, SocketType.Dgram, ProtocolType.Unspecified) { ReceiveTimeout = 5000, ReceiveBufferSize = 1 << 20 };
        journal.Bind(new UnixDomainSocketEndPoint(job["journal"]));
        var entries = new List<Dictionary<string, string>>();
        var reading = Task.Run(() => Read(journal, entries));
        var ended = (await job.DoAsync(["run", job.Path, "--log", "journal"], null, ("CURSIVA_JOURNAL_SOCKET", job["journal"]))).ShouldEndWith(0);
        ended.Error.ShouldBeEmpty();
        await reading;
        entries.ShouldAllBe(entry => entry["SYSLOG_IDENTIFIER"] == "cursiva" && entry["PRIORITY"] == "6" && entry.ContainsKey("MESSAGE"));
        entries[0]["CURSIVA_EVENT"].ShouldBe("run-began");
        entries[^1]["CURSIVA_EXIT_CODE"].ShouldBe("0");
        entries[^1]["CURSIVA_JOB"].ShouldBe("late");
        entries[^1]["CURSIVA_ROWS"].ShouldBe("60");

        // Without a journal, each line has its priority before it.
        var refused = await job.DoAsync(["run", job.Path, "--new", "--log", "journal"], null, ("CURSIVA_JOURNAL_SOCKET", job["nowhere"]), ("BRACKWATER_SECRET", "wrong"));
        refused.ShouldEndWith(4).Error.Split('\n', StringSplitOptions.RemoveEmptyEntries).ShouldAllBe(line => line.StartsWith("<6>") || line.StartsWith("<4>") || line.StartsWith("<3>"));
        refused.Error.ShouldContain("<3>");
    }

    private static void Read(Socket journal, List<Dictionary<string, string>> entries)
    {
        var buffer = new byte[1 << 17];
        while (true)
        {
            var text = Encoding.UTF8.GetString(buffer, 0, journal.Receive(buffer));
            entries.Add(text.Split('\n', StringSplitOptions.RemoveEmptyEntries).ToDictionary(line => line[..line.IndexOf('=')], line => line[(line.IndexOf('=') + 1)..]));
            if (entries[^1].GetValueOrDefault("CURSIVA_EVENT") == "ended")
                return;
        }
    }

    // Protocol buffers, wire format: every field that is text, however deep; what is not a message is text.
    private static IEnumerable<string> Texts(byte[] message) => Fields(message) is { } fields
        ? fields.Where(field => field.Bytes is not null).SelectMany(field => Fields(field.Bytes!) is { Count: > 0 } ? Texts(field.Bytes!).Append(Encoding.UTF8.GetString(field.Bytes!)) : [Encoding.UTF8.GetString(field.Bytes!)])
        : [];

    private static IEnumerable<double> Doubles(byte[] message) => Fields(message) is { } fields
        ? fields.SelectMany(field => field.Bytes is { } inside ? Doubles(inside) : field.Fixed is { } bits ? [BitConverter.UInt64BitsToDouble(bits)] : [])
        : [];

    private static List<(byte[]? Bytes, ulong? Fixed)>? Fields(byte[] message)
    {
        var fields = new List<(byte[]?, ulong?)>();
        var at = 0;
        ulong? Varint()
        {
            ulong value = 0;
            for (var shift = 0; shift < 64 && at < message.Length; shift += 7)
            {
                var part = message[at++];
                value |= (ulong)(part & 127) << shift;
                if (part < 128)
                    return value;
            }

            return null;
        }

        while (at < message.Length)
        {
            if (Varint() is not { } tag || tag >> 3 == 0)
                return null;
            switch (tag & 7)
            {
                case 0:
                    if (Varint() is null)
                        return null;
                    break;
                case 1 when at + 8 <= message.Length:
                    fields.Add((null, BitConverter.ToUInt64(message, at)));
                    at += 8;
                    break;
                case 2 when Varint() is { } length && length <= (ulong)(message.Length - at):
                    fields.Add((message[at..(at + (int)length)], null));
                    at += (int)length;
                    break;
                case 5 when at + 4 <= message.Length:
                    at += 4;
                    break;
                default:
                    return null;
            }
        }

        return fields;
    }

    // Takes whatever is posted, and says that all is well.
    private sealed class Collector : IDisposable
    {
        private readonly HttpListener _listener = new();

        public Collector()
        {
            using var probe = new TcpListener(IPAddress.Loopback, 0);
            probe.Start();
            Address = $"http://127.0.0.1:{((IPEndPoint)probe.LocalEndpoint).Port}";
            probe.Stop();
            _listener.Prefixes.Add(Address + "/");
            _listener.Start();
            _ = Task.Run(ServeAsync);
        }

        public string Address { get; }

        public ConcurrentDictionary<string, List<byte[]>> Received { get; } = new();

        public void Dispose() => _listener.Close();

        private async Task ServeAsync()
        {
            try
            {
                while (true)
                {
                    var context = await _listener.GetContextAsync();
                    using var body = new MemoryStream();
                    await context.Request.InputStream.CopyToAsync(body);
                    Received.GetOrAdd(context.Request.Url!.AbsolutePath, _ => []).Add(body.ToArray());
                    context.Response.ContentType = "application/x-protobuf";
                    context.Response.Close();
                }
            }
            catch (Exception error) when (error is HttpListenerException or ObjectDisposedException)
            {
                // The test is over.
            }
        }
    }
}

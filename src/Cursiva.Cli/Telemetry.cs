using System.Diagnostics;
using System.Diagnostics.Metrics;
using Cursiva.Core.Operations;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using OpenTelemetry;
using OpenTelemetry.Metrics;
using OpenTelemetry.Resources;
using OpenTelemetry.Trace;

namespace Cursiva.Cli;

/// <summary>
/// Sends the numbers of a run as OTLP metrics, and its stages and requests as a trace, where the standard variables of OpenTelemetry say:
/// <c>OTEL_EXPORTER_OTLP_ENDPOINT</c> and its companions. A collector that is not there costs a run nothing but a second.
/// </summary>
internal sealed class Telemetry : IDisposable
{
    private const string Name = "Cursiva";
    private const int LongestFlushMs = 1500;

    private readonly ActivitySource _source = new(Name);
    private readonly TracerProvider? _traces;
    private readonly Activity? _run;
    private readonly bool _wantsMetrics;
    private readonly ResourceBuilder _resource = ResourceBuilder.CreateDefault()
        .AddService("cursiva", serviceInstanceId: Environment.MachineName)
        .AddEnvironmentVariableDetector();

    private Telemetry(string job, bool wantsTraces, bool wantsMetrics)
    {
        _wantsMetrics = wantsMetrics;
        if (!wantsTraces)
            return;
        _traces = Sdk.CreateTracerProviderBuilder().SetResourceBuilder(_resource).AddSource(Name).AddOtlpExporter().Build();
        _run = _source.StartActivity($"run {job}", ActivityKind.Internal);
        _run?.SetTag("cursiva.job", job);
    }

    /// <summary>Begins where the environment asks for it; null elsewhere.</summary>
    /// <param name="job">The job's name.</param>
    public static Telemetry? Begin(string job, Func<string, string?> environment)
    {
        bool Has(string name) => environment(name) is { Length: > 0 };
        if (environment("OTEL_SDK_DISABLED") == "true")
            return null;
        var (all, traces, metrics) = (
            Has("OTEL_EXPORTER_OTLP_ENDPOINT"), Has("OTEL_EXPORTER_OTLP_TRACES_ENDPOINT"), Has("OTEL_EXPORTER_OTLP_METRICS_ENDPOINT"));
        var (wantsTraces, wantsMetrics) = (
            (all || traces) && environment("OTEL_TRACES_EXPORTER") != "none",
            (all || metrics) && environment("OTEL_METRICS_EXPORTER") != "none");
        return wantsTraces || wantsMetrics ? new Telemetry(job, wantsTraces, wantsMetrics) : null;
    }

    /// <summary>Notes a request that was answered.</summary>
    /// <param name="method">Its method.</param>
    /// <param name="address">Its address as people are shown it: without secrets.</param>
    /// <param name="status">The status of the answer; 0 for none.</param>
    public void Request(string method, string address, int status, TimeSpan took)
    {
        if (_traces is null)
            return;
        var end = DateTime.UtcNow;
        using var span = _source.StartActivity(method, ActivityKind.Client, _run?.Context ?? default, startTime: end - took);
        span?.SetTag("http.request.method", method).SetTag("url.full", address).SetTag(
            "server.address", Uri.TryCreate(address, UriKind.Absolute, out var uri) ? uri.Host : null);
        if (status > 0)
            span?.SetTag("http.response.status_code", status);
        if (status is 0 or >= 400)
            span?.SetStatus(ActivityStatusCode.Error);
        span?.SetEndTime(end);
    }

    /// <summary>Sends how the run ended.</summary>
    /// <param name="gauges">Its numbers.</param>
    public void End(RunSummary summary, IReadOnlyList<Gauge> gauges)
    {
        Stages(summary);
        _run?.SetTag("cursiva.run", summary.Run).SetTag("cursiva.exit_code", (int)summary.Outcome);
        _run?.SetStatus(summary.Outcome == Outcome.Done ? ActivityStatusCode.Ok : ActivityStatusCode.Error);
        _run?.Dispose();
        _traces?.ForceFlush(LongestFlushMs);
        if (_wantsMetrics)
            Metrics(gauges);
    }

    public void Dispose()
    {
        _run?.Dispose();
        _traces?.Shutdown(LongestFlushMs);
        _traces?.Dispose();
        _source.Dispose();
    }

    // One after the other, up to the end: that is how they follow each other.
    private void Stages(RunSummary summary)
    {
        var end = DateTime.UtcNow;
        foreach (var (stage, seconds) in summary.StagesS.Reverse())
        {
            using var span = _traces is null
                ? null
                : _source.StartActivity(stage, ActivityKind.Internal, _run?.Context ?? default, startTime: end.AddSeconds(-seconds));
            span?.SetEndTime(end);
            end = end.AddSeconds(-seconds);
        }
    }

    private void Metrics(IReadOnlyList<Gauge> gauges)
    {
        using var meter = new Meter(Name);
        foreach (var gauge in gauges)
        {
            Measurement<double>[] values = [.. gauge.Samples.Select(
                sample => new Measurement<double>(
                    sample.Value, sample.Labels.Select(label => KeyValuePair.Create(label.Key, (object?)label.Value))))];
            meter.CreateObservableGauge(gauge.Name, () => values, Unit(gauge.Unit), gauge.Help);
        }

        using var provider = Sdk.CreateMeterProviderBuilder().SetResourceBuilder(_resource).AddMeter(Name).AddOtlpExporter().Build();
        provider.Shutdown(LongestFlushMs);
    }

    // As UCUM has them, which OpenTelemetry asks for.
    private static string? Unit(string? unit) =>
        unit switch { "seconds" => "s", "bytes" => "By", "days" => "d", "ratio" => "1", _ => null };
}

using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;
using Cursiva.Core.Secrets;
using Serilog;
using Serilog.Core;
using Serilog.Events;
using Serilog.Formatting;
using Serilog.Formatting.Display;

namespace Cursiva.Cli.Rendering;

/// <summary>Shows a run as dated lines, or as JSON, an object a line.</summary>
internal sealed class LogView : IRunView
{
    /// <summary>The field with the name of an event, as docs/log.md lists them.</summary>
    public const string EventField = "Event";

    public const string JobField = "Job";

    public const string RunField = "Run";

    private static readonly TimeSpan s_often = TimeSpan.FromSeconds(5);
    private static readonly TimeSpan s_worthTelling = TimeSpan.FromSeconds(2);

    private readonly Logger _logger;
    private ILogger _log;
    private readonly TimeProvider _clock;
    private readonly Advice _advice;
    private readonly Lock _gate = new();
    private readonly ITimer _ticker;
    private readonly List<Speed> _speeds = [];

    /// <param name="job">The name of the job; null where there is none.</param>
    public LogView(TextWriter writer, TimeProvider clock, ViewChoice view, Advice advice, string? job)
    {
        (_clock, _advice) = (clock, advice);
        ITextFormatter format = view.JsonLog
            ? new JsonLogFormat()
            : new MessageTemplateTextFormatter("{UtcTimestamp:yyyy-MM-ddTHH:mm:ss}Z {Message:l}{NewLine}{Exception}", new LogWords());
        _logger = new LoggerConfiguration()
            .MinimumLevel.Is(view.Debug ? LogEventLevel.Debug : LogEventLevel.Information)
            .WriteTo.Sink(new WriterSink(format, writer))
            .CreateLogger();
        _log = job is null ? _logger : _logger.ForContext(JobField, job);
        _ticker = clock.CreateTimer(_ => Tick(), null, s_often, s_often);
    }

    public void Began(int run, bool goesOn, string reason)
    {
        _log = _log.ForContext(RunField, run);
        reason = _advice.Of(reason);
        if (goesOn)
            Event("run-resumed").Information("resuming run {Run}: {Reason}", run, reason);
        else
            Event("run-began").Information("beginning run {Run}: {Reason}", run, reason);
    }

    public void PullBegan(PullProgress pull)
    {
        lock (_gate)
            _speeds.Add(new Speed(pull, _clock));
        if (pull.RowsBefore > 0)
            Event("pull-resumed").Information("pull {Pull}: resumed after {Rows} landed rows", pull.Pull, pull.RowsBefore);
        else
            Event("pull-began").Information("pull {Pull}: begins", pull.Pull);
    }

    public void PullEnded(PullProgress pull)
    {
        lock (_gate)
        {
            if (_speeds.Find(speed => speed.Pull == pull) is not { } speed)
                return;
            var strands = pull.Repeats
                ? $", {pull.StrandsEnded:N0} {(pull.StrandsEnded == 1 ? "strand" : "strands")}{(pull.Skips > 0 ? $", {pull.Skips:N0} of them skipped" : "")}"
                : "";
            Event("pull-ended").Information(
                pull.Pages == 1
                    ? "pull {Pull}: complete, {Rows} rows on {Pages} page in {Took}{Strands:l}"
                    : "pull {Pull}: complete, {Rows} rows on {Pages} pages in {Took}{Strands:l}",
                pull.Pull,
                pull.Rows,
                pull.Pages,
                speed.Took,
                strands);
            _speeds.Remove(speed);
        }
    }

    public void Skipped(PullProgress pull, string strand, string because) =>
        Event("strand-skipped").Warning("pull {Pull}: skipped {Strand:l}: {Because:l}", pull.Pull, strand, because);

    public void Doing(string what) => Event("stage").Information("{What:l}", what);

    public void Wrote(WrittenFile file) =>
        Event("file-written").Information("wrote {Path}: {Rows} rows, {Bytes} bytes", file.Path, file.Rows, file.Bytes);

    public void Warned(string what) => Event("notice").Warning("{What:l}", _advice.Of(what));

    public void Answered(Request request, int status, TimeSpan took) =>
        Event("request-answered").Debug(
            "{Request:l} answered {Status} in {Milliseconds} ms", request.ToString(), status, Math.Round(took.TotalMilliseconds, 1));

    public void Unanswered(Request request) =>
        Event("request-unanswered").Debug("{Request:l} was sent, and no complete answer came", request.ToString());

    public void Retrying(Request request, string reason, int attempt, TimeSpan delay) =>
        Event("request-retried").Warning(
            "{Request:l}: {Reason:l}; attempt {Attempt} failed, next in {Delay}", request.ToString(), reason, attempt, delay);

    public void Waiting(string limit, TimeSpan delay)
    {
        if (delay >= s_worthTelling)
            Event("waiting").Information("waiting {Delay} for {Limit:l}", delay, limit);
    }

    public void Waited(TimeSpan waited) => Event("waited").Debug("waited {Waited}", waited);

    public void SignedIn(string identity, TimeSpan lifetime) =>
        Event("signed-in").Information("identity {Identity}: signed in, the token is valid for {Lifetime}", identity, lifetime);

    public void Dispose()
    {
        _ticker.Dispose();
        _logger.Dispose();
    }

    private ILogger Event(string name) => _log.ForContext(EventField, name);

    private void Tick()
    {
        lock (_gate)
        {
            foreach (var speed in _speeds)
                Event("pull-progress").Information("pull {Pull}: {Progress:l}", speed.Pull.Pull, speed.Line());
        }
    }

    private sealed class WriterSink(ITextFormatter format, TextWriter writer) : ILogEventSink
    {
        private readonly Lock _gate = new();

        public void Emit(LogEvent logEvent)
        {
            using var line = new StringWriter();
            format.Format(logEvent, line);

            // One event is one line, whatever names and values are in it; in JSON the escapes mean the same to its readers.
            lock (_gate)
                writer.Write(OneLine.Of(line.ToString().TrimEnd('\r', '\n')) + "\n");
        }
    }
}

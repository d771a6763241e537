using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;
using Spectre.Console;
using Spectre.Console.Rendering;

namespace Cursiva.Cli.Rendering;

/// <summary>Shows a run on a terminal: a line a pull, drawn again five times a second, and what it waits for below.</summary>
internal sealed class LiveView : IRunView
{
    private static readonly TimeSpan s_frame = TimeSpan.FromMilliseconds(200);

    private readonly IAnsiConsole _console;
    private readonly TimeProvider _clock;
    private readonly Advice _advice;
    private readonly Lock _gate = new();
    private readonly List<Speed> _pulls = [];
    private readonly List<string> _messages = [];
    private readonly HashSet<string> _identities = [];
    private readonly CancellationTokenSource _ending = new();
    private readonly Task _drawing;
    private string _signedIn = "";
    private string _doing = "";
    private string _waiting = "";
    private long _waitingUntil;

    public LiveView(IAnsiConsole console, TimeProvider clock, Advice advice)
    {
        _console = console;
        _clock = clock;
        _advice = advice;
        _drawing = Task.Run(DrawAsync);
    }

    public void Began(int run, bool goesOn, string reason) =>
        Say($"[bold]{(goesOn ? "Resuming" : "Beginning")} run {run}[/]: {Shown.Escape(_advice.Of(reason))}");

    public void PullBegan(PullProgress pull)
    {
        lock (_gate)
        {
            // A family of pulls that starts over brings new counts.
            _pulls.RemoveAll(speed => speed.Pull.Pull == pull.Pull);
            _pulls.Add(new Speed(pull, _clock));
        }
    }

    public void PullEnded(PullProgress pull)
    {
        lock (_gate)
            _pulls.Find(speed => speed.Pull == pull)?.End();
    }

    public void Skipped(PullProgress pull, string strand, string because) =>
        Say($"[yellow]Skipped[/] {Shown.Escape(pull.Pull)} ({Shown.Escape(strand)}): {Shown.Escape(because)}");

    public void Doing(string what)
    {
        lock (_gate)
            _doing = what;
    }

    public void Wrote(WrittenFile file)
    {
    }

    public void Warned(string what) => Say($"[yellow]Note:[/] {Shown.Escape(_advice.Of(what))}");

    public void Answered(Request request, int status, TimeSpan took)
    {
    }

    public void Unanswered(Request request)
    {
    }

    public void Retrying(Request request, string reason, int attempt, TimeSpan delay) =>
        Say($"[yellow]{Shown.Escape(reason)}[/], attempt {attempt}; next in {Durations.ForPeople(delay)}: {Shown.Escape(request.ToString())}");

    public void Waiting(string limit, TimeSpan delay)
    {
        lock (_gate)
        {
            _waiting = limit;
            _waitingUntil = _clock.GetTimestamp() + (long)(delay.TotalSeconds * _clock.TimestampFrequency);
        }
    }

    public void Waited(TimeSpan waited)
    {
    }

    public void SignedIn(string identity, TimeSpan lifetime)
    {
        lock (_gate)
        {
            // One line for all: a job with many tenants signs in as many.
            _identities.Add(identity);
            _signedIn =
                $"Signed in as {Shown.Escape(identity)}{(_identities.Count > 1 ? $" and {_identities.Count - 1:N0} {(_identities.Count == 2 ? "other" : "others")}" : "")}; the token is valid for {Durations.ForPeople(lifetime)}";
        }
    }

    public void Dispose()
    {
        if (_ending.IsCancellationRequested)
            return;
        _ending.Cancel();
        _drawing.GetAwaiter().GetResult();

        // The cursor is shown again by a sequence without a line break, which nobody would write out after a good run.
        _console.Profile.Out.Writer.Flush();
        _ending.Dispose();
    }

    private void Say(string markup)
    {
        lock (_gate)
            _messages.Add(markup);
    }

    private Task DrawAsync() => _console.Live(Shown.Text("")).AutoClear(false).Overflow(VerticalOverflow.Crop).StartAsync(async live =>
    {
        while (true)
        {
            var last = _ending.IsCancellationRequested;
            live.UpdateTarget(Draw(last));
            if (last)
                return;
            try
            {
                await Task.Delay(s_frame, _clock, _ending.Token);
            }
            catch (OperationCanceledException)
            {
                // Once more, with the last state.
            }
        }
    });

    private Rows Draw(bool last)
    {
        lock (_gate)
        {
            // The newest messages; a terminal has room for few.
            List<IRenderable> lines = [.. _messages.TakeLast(8).Select(message => new Markup(message))];
            if (_signedIn.Length > 0)
                lines.Add(new Markup(_signedIn));
            if (_pulls.Count > 0)
                lines.Add(Table());
            if (!last && _clock.GetTimestamp() < _waitingUntil)
                lines.Add(
                    new Markup(
                        $"[grey]waiting for {Shown.Escape(_waiting)}, {Durations.ForPeople(TimeSpan.FromSeconds((_waitingUntil - _clock.GetTimestamp()) / (double)_clock.TimestampFrequency))} more[/]"));
            else if (!last && _doing.Length > 0)
                lines.Add(new Markup($"[grey]{Shown.Escape(_doing)}[/]"));
            return new Rows(lines);
        }
    }

    private Table Table()
    {
        var table = new Table { Border = TableBorder.Simple };
        var (isNarrow, isTight) = (_console.Profile.Width < 76, _console.Profile.Width < 56);
        table.AddColumn("pull");
        table.AddColumn("strands");
        string[] titles = isTight ? ["rows"] : isNarrow ? ["rows", "of", "left"] : ["pages", "rows", "of", "rows/s", "left"];
        foreach (var title in titles)
            table.AddColumn(new TableColumn(title).RightAligned());
        foreach (var speed in _pulls)
        {
            var (rate, left) = speed.Measure();
            var going = !speed.HasEnded;
            var cells = new Dictionary<string, string>
            {
                ["pages"] = $"{speed.Pull.Pages:N0}",
                ["rows"] = $"{speed.Pull.Rows:N0}",
                ["of"] = speed.Pull.Total is { } all ? $"{all:N0}" : "",
                ["rows/s"] = going ? $"{rate:N0}" : "",
                ["left"] = going && left is { } span ? Durations.ForPeople(span) : "",
            };
            table.AddRow(
            [
                Shown.Escape(speed.Pull.Pull),
                going || speed.Pull.Repeats ? Strands(speed, isTight) : "[green]complete[/]",
                .. titles.Select(title => cells[title]),
            ]);
        }

        return table;
    }

    // One strand has a bar; of many it is told how many have ended, are under way, and were skipped.
    private static string Strands(Speed speed, bool isTight)
    {
        var pull = speed.Pull;
        if (!pull.Repeats)
            return Bar(pull.Rows, pull.Total, isTight ? 8 : 20);
        var skips = pull.Skips > 0 ? $", [yellow]{pull.Skips:N0} skipped[/]" : "";
        return speed.HasEnded
            ? $"[green]{pull.StrandsEnded:N0} complete[/]{skips}"
            : $"{pull.StrandsEnded:N0} ended, [blue]{pull.StrandsBegun - pull.StrandsEnded:N0} running[/]{skips}";
    }

    private static string Bar(long rows, long? total, int width)
    {
        if (total is not > 0)
            return "1 running";
        var filled = (int)Math.Clamp(rows * width / total.Value, 0, width);
        return $"[blue]{new string('█', filled)}[/][grey]{new string('░', width - filled)}[/]";
    }
}

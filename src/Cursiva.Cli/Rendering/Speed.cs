using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;

namespace Cursiva.Cli.Rendering;

/// <summary>How fast a pull goes, and how long it will still take, over the last seconds.</summary>
internal sealed class Speed(PullProgress pull, TimeProvider clock)
{
    private const int Samples = 25;

    private readonly Queue<(long Time, long Rows)> _samples = new([(clock.GetTimestamp(), pull.Rows)]);
    private readonly long _start = clock.GetTimestamp();

    public PullProgress Pull => pull;

    /// <summary>Whether the pull has ended.</summary>
    public bool HasEnded { get; private set; }

    public void End() => HasEnded = true;

    /// <summary>Since the pull began.</summary>
    public TimeSpan Took => clock.GetElapsedTime(_start);

    /// <summary>Takes a sample.</summary>
    /// <returns>Rows per second, and the time left where the total is known.</returns>
    public (double RowsPerSecond, TimeSpan? Left) Measure()
    {
        _samples.Enqueue((clock.GetTimestamp(), pull.Rows));
        if (_samples.Count > Samples)
            _samples.Dequeue();
        var (first, last) = (_samples.Peek(), (Time: clock.GetTimestamp(), pull.Rows));
        var seconds = clock.GetElapsedTime(first.Time, last.Time).TotalSeconds;
        var speed = seconds > 0.05 ? (last.Rows - first.Rows) / seconds : 0;
        TimeSpan? left = pull.Total is { } total && speed > 0 ? TimeSpan.FromSeconds(Math.Max(0, total - last.Rows) / speed) : null;
        return (speed, left);
    }

    /// <summary>The pull's state as one line.</summary>
    public string Line()
    {
        var (speed, left) = Measure();
        var total = pull.Total is { } all ? $" of {all:N0}" : "";
        var eta = left is { } span ? $", {Durations.ForPeople(span)} left" : "";
        var strands = pull.Repeats
            ? $"{pull.StrandsEnded:N0} strands ended, {pull.StrandsBegun - pull.StrandsEnded:N0} running{(pull.Skips > 0 ? $", {pull.Skips:N0} skipped" : "")}, "
            : "";
        return $"{strands}{pull.Rows:N0}{total} rows, {pull.Pages:N0} pages, {speed:N0} rows/s{eta}";
    }
}

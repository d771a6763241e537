using System.Globalization;

namespace Cursiva.Core.Jobs;

/// <summary>Asks for one stretch of time after another. A stretch has its beginning inside and its end outside.</summary>
/// <param name="From">Where the first stretch begins.</param>
/// <param name="To">Where the last one ends.</param>
/// <param name="Step">The length of a stretch; the last one may be shorter.</param>
public sealed record Window(DateTimeOffset From, DateTimeOffset To, TimeSpan Step)
{
    /// <summary>What the placeholders of a window begin with.</summary>
    public const string Head = "window";
    /// <summary>The placeholder of its start.</summary>
    public const string FromName = "window.from";
    /// <summary>The placeholder of its end.</summary>
    public const string ToName = "window.to";

    /// <summary>The most rows that the API gives for one query; null when it gives any number.</summary>
    public long? AtMost { get; init; }

    /// <summary>How the ends are written.</summary>
    public WindowForm Form { get; init; }

    /// <summary>Taken off the end that is sent.</summary>
    public TimeSpan EndLess { get; init; }

    /// <summary>How many stretches there are.</summary>
    public long Count => (long)Math.Ceiling((To - From) / Step);

    /// <summary>The stretches, in order, as they are sent.</summary>
    public IEnumerable<(string From, string To)> Stretches()
    {
        for (var from = From; from < To; from += Step)
            yield return Written(from, from + Step < To ? from + Step : To);
    }

    /// <summary>Two halves of a stretch; null when it is as short as it can be: a second, or a day where days are sent.</summary>
    /// <param name="from">Its beginning as it was sent.</param>
    /// <param name="to">Its end as it was sent.</param>
    public IReadOnlyList<(string From, string To)>? Halves(string from, string to)
    {
        var (begin, end) = (Read(from), Read(to) + EndLess);
        var unit = Form == WindowForm.Date ? TimeSpan.FromDays(1) : TimeSpan.FromSeconds(1);
        var half = unit * Math.Floor((end - begin) / unit / 2);
        return half <= TimeSpan.Zero ? null : [Written(begin, begin + half), Written(begin + half, end)];
    }

    private (string From, string To) Written(DateTimeOffset from, DateTimeOffset to) => (Write(from), Write(to - EndLess));

    private string Write(DateTimeOffset time) => Form switch
    {
        WindowForm.Time => RelativeTime.Write(time),
        WindowForm.Date => time.UtcDateTime.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
        WindowForm.Seconds => time.ToUnixTimeSeconds().ToString(CultureInfo.InvariantCulture),
    };

    private DateTimeOffset Read(string text) => Form switch
    {
        WindowForm.Time or WindowForm.Date => DateTimeOffset.Parse(
            text, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal),
        WindowForm.Seconds => DateTimeOffset.FromUnixTimeSeconds(long.Parse(text, CultureInfo.InvariantCulture)),
    };
}

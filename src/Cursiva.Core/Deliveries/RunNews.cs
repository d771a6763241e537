using System.Globalization;
using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;

namespace Cursiva.Core.Deliveries;

/// <summary>What deliveries tell of a run.</summary>
/// <param name="Job">The job's title.</param>
/// <param name="Number">The run's number.</param>
/// <param name="StartedAt">When it began, in the job's zone.</param>
/// <param name="Names">Gives the names of the run for templates.</param>
/// <param name="OutFolder">The folder of its reports.</param>
/// <param name="Files">The files that it wrote.</param>
/// <param name="Refusal">Why it did not end well, cleaned; null where it did.</param>
public sealed record RunNews(
    string Job,
    int Number,
    DateTimeOffset StartedAt,
    Func<string,
    string?> Names,
    string OutFolder,
    IReadOnlyList<WrittenFile> Files,
    Refusal? Refusal)
{
    /// <summary>What deliveries take from the database, by the delivery's name.</summary>
    public IReadOnlyDictionary<string, DeliveryExtract> Extracts { get; init; } = new Dictionary<string, DeliveryExtract>();

    /// <summary>What overview found, in words; null for news of a run.</summary>
    public string? Alarm { get; init; }

    /// <summary>The run on one line.</summary>
    public string Line => string.Create(CultureInfo.InvariantCulture, $"Run {Number} of {Job}, {StartedAt:d MMMM yyyy, HH:mm zzz}.");

    /// <summary>What is told of it: a line of a good run, and of another one what the terminal says.</summary>
    public string Told => Alarm is not null ? Alarm : Refusal is null ? Line : Words(Refusal) + Line;

    private static string Words(Refusal refusal) => string.Concat(new (string Title, string? Text)[]
    {
        ("", refusal.What), ("request: ", refusal.Request), ("answer: ", refusal.Quote), ("cause: ", refusal.Cause), (
            "next: ", refusal.NextStep),
    }.Where(line => line.Text is not null).Select(line => $"{line.Title}{line.Text}\n"));
}

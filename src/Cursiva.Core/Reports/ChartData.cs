using System.Globalization;
using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>What a chart shows.</summary>
/// <param name="Labels">The first column, as text.</param>
/// <param name="At">The first column as numbers, for a line: OLE dates, numbers, or the places of the labels.</param>
/// <param name="IsTime">Whether <paramref name="At"/> are dates.</param>
/// <param name="Note">What is not shown, or not as usual, for people; empty when nothing is.</param>
internal sealed record ChartData(
    PartKind Kind, IReadOnlyList<string> Labels, double[] At, bool IsTime, IReadOnlyList<ChartSeries> Series, string? Unit, string Note)
{
    /// <summary>The axis of a line's values; null for other charts, which begin at zero.</summary>
    public ChartAxis? Axis { get; private init; }

    /// <summary>Values at which it has a line.</summary>
    public IReadOnlyList<Threshold> Thresholds { get; private init; } = [];

    /// <summary>
    /// Whether all that it draws stands so in the rows: nothing was omitted, added up or taken apart, and no line is marked.
    /// </summary>
    public bool IsAsRows { get; private init; }

    /// <summary>Whether its times are days without a time of day.</summary>
    public bool HasDaysAlone => IsTime && At.All(at => double.IsNaN(at) || at == Math.Floor(at));

    /// <summary>Whether labels are places on an axis, and not only names in a row.</summary>
    public bool HasPlaces { get; private init; }

    /// <summary>Bars that an eye can tell apart.</summary>
    public const int MostBars = 30;

    /// <summary>Slices of a whole that an eye can tell apart.</summary>
    public const int MostSlices = 7;

    /// <summary>Series that an eye, and a palette, can tell apart.</summary>
    public const int MostSeries = 6;

    /// <summary>Points that a line may have.</summary>
    public const int MostPoints = 5000;

    /// <summary>The name of what is added up.</summary>
    public const string Rest = "others";

    /// <summary>Makes a chart's data from its rows.</summary>
    /// <param name="rows">At most one more than <see cref="MostPoints"/>.</param>
    /// <exception cref="TableException">The rows make no such chart.</exception>
    public static ChartData Of(Part part, IReadOnlyList<ResultColumn> columns, IReadOnlyList<string?[]> rows)
    {
        if (rows.Count > MostPoints)
            throw new TableException(
                $"the chart '{part.Name}' has more than {MostPoints} rows, too many to read; group them in SQL");
        var isLong = columns is [_, { IsNumber: false }, { IsNumber: true }];
        var hasPlaces = columns[0].IsNumber || columns[0].Form is ValueForm.Date or ValueForm.Time;
        var (labels, series) = isLong ? Long(rows, hasPlaces) : Wide(part, columns, rows);
        var notes = new List<string>();
        if (part.Kind == PartKind.Share)
            (labels, series) = Slices(part, labels, series, notes);
        if (part.Kind is PartKind.Bar or PartKind.StackedBar && labels.Count > MostBars)
        {
            notes.Add($"the first {MostBars} of {labels.Count}");
            (labels, series) = ([.. labels.Take(MostBars)], [.. series.Select(one => one with { Values = one.Values[..MostBars] })]);
        }

        if (series.Count > MostSeries)
            series = FewSeries(part.Kind, series, notes);
        var (at, isTime) = Places(columns[0], labels);
        var isAsRows = !isLong && notes.Count == 0 && (part.Kind != PartKind.Line || part.Thresholds.Count == 0);
        var axis = part.Kind == PartKind.Line
            ? ChartAxis.Of(series.SelectMany(one => one.Values).Concat(part.Thresholds.Select(threshold => threshold.Value)))
            : null;
        if (axis is { Note.Length: > 0 })
            notes.Add(axis.Note);
        return new ChartData(part.Kind, labels, at, isTime, series, part.Unit, string.Join("; ", notes))
        {
            Axis = axis,
            Thresholds = part.Thresholds,
            IsAsRows = isAsRows,
            HasPlaces = hasPlaces,
        };
    }

    private static (List<string> Labels, List<ChartSeries> Series) Wide(
        Part part, IReadOnlyList<ResultColumn> columns, IReadOnlyList<string?[]> rows)
    {
        var places = Enumerable.Range(1, Math.Max(0, columns.Count - 1)).Where(place => columns[place].IsNumber).ToList();
        if (places.Count == 0)
            throw new TableException($"the chart '{part.Name}' has no column of numbers after its first column, which has the labels");
        return (
            [.. rows.Select(row => row[0] ?? "none")],
            [.. places.Select(
                place => new ChartSeries(columns[place].Name, [.. rows.Select(row => Number(row[place]))])
                {
                    Nulls = Enumerable.Range(0, rows.Count).Where(row => rows[row][place] is null).ToHashSet(),
                })]);
    }

    // Label, series, value: one row for each point. Series may be measured at times of their own; of labels in a row, all are meant for
    // each.
    private static (List<string> Labels, List<ChartSeries> Series) Long(IReadOnlyList<string?[]> rows, bool hasPlaces)
    {
        List<string> labels = [.. rows.Select(row => row[0] ?? "none").Distinct()];
        var places = labels.Index().ToDictionary(pair => pair.Item, pair => pair.Index);
        var series = new List<ChartSeries>();
        foreach (var group in rows.GroupBy(row => row[1] ?? "none"))
        {
            var values = new double[labels.Count];
            Array.Fill(values, double.NaN);
            var nulls = hasPlaces ? [] : Enumerable.Range(0, labels.Count).ToHashSet();
            foreach (var row in group)
            {
                var place = places[row[0] ?? "none"];
                values[place] = Number(row[2]);
                if (row[2] is null)
                    nulls.Add(place);
            }

            series.Add(new ChartSeries(group.Key, values) { Nulls = nulls });
        }

        return (labels, series);
    }

    private static (List<string> Labels, List<ChartSeries> Series) Slices(
        Part part, List<string> labels, List<ChartSeries> series, List<string> notes)
    {
        var pairs = labels.Zip(series[0].Values).Where(pair => !double.IsNaN(pair.Second)).ToList();
        if (pairs.Exists(pair => pair.Second < 0))
            throw new TableException($"the chart '{part.Name}' has a value below zero, which cannot be a share of a whole");
        pairs = [.. pairs.OrderByDescending(pair => pair.Second).ThenBy(pair => pair.First, StringComparer.Ordinal)];
        if (pairs.Count > MostSlices)
        {
            var rest = pairs.Skip(MostSlices - 1).ToList();
            notes.Add($"{rest.Count} of {pairs.Count} are combined as {Rest}");
            pairs = [.. pairs.Take(MostSlices - 1), (Rest, rest.Sum(pair => pair.Second))];
        }

        return ([.. pairs.Select(pair => pair.First)], [new ChartSeries(series[0].Name, [.. pairs.Select(pair => pair.Second)])]);
    }

    private static List<ChartSeries> FewSeries(PartKind kind, List<ChartSeries> series, List<string> notes)
    {
        var ordered = series.OrderByDescending(one => one.Values.Where(value => !double.IsNaN(value)).Sum(Math.Abs)).ToList();
        if (kind != PartKind.StackedBar)
        {
            notes.Add($"the largest {MostSeries} of {series.Count} series");
            return [.. series.Where(one => ordered.IndexOf(one) < MostSeries)];
        }

        // Only what is stacked may be added up.
        var kept = series.Where(one => ordered.IndexOf(one) < MostSeries - 1).ToList();
        var rest = series.Except(kept).ToList();
        notes.Add($"{rest.Count} of {series.Count} series are combined as {Rest}");
        kept.Add(
            new ChartSeries(
                Rest,
                [.. Enumerable.Range(0, series[0].Values.Length).Select(
                    place => rest.Sum(one => double.IsNaN(one.Values[place]) ? 0 : one.Values[place]))]));
        return kept;
    }

    private static (double[] At, bool IsTime) Places(ResultColumn first, IReadOnlyList<string> labels) => first.Form switch
    {
        ValueForm.Date or ValueForm.Time => (
            [.. labels.Select(
                label => DateTime.TryParse(
                    label,
                    CultureInfo.InvariantCulture,
                    DateTimeStyles.AdjustToUniversal | DateTimeStyles.AssumeUniversal,
                    out var at) ? at.ToOADate() : double.NaN)],
            true),
        _ when first.IsNumber => ([.. labels.Select(Number)], false),
        _ => ([.. Enumerable.Range(0, labels.Count).Select(place => (double)place)], false),
    };

    private static double Number(string? text) =>
        double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var number) ? number : double.NaN;
}

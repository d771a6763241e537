using System.Globalization;

namespace Cursiva.Core.Operations;

/// <summary>Writes cron expressions as the calendar events of systemd.time(7).</summary>
public static class SystemdCalendar
{
    private static readonly string[] s_days = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
    private static readonly string[] s_months = ["JAN", "FEB", "MAR", "APR", "MAY", "JUN", "JUL", "AUG", "SEP", "OCT", "NOV", "DEC"];

    /// <summary>
    /// The calendar event of a cron expression of five fields; null where it has something that only cron knows (L, W, #, ?).
    /// </summary>
    /// <param name="cron">Five fields; that of day of the month and that of day of the week must both hold.</param>
    /// <param name="zone">The zone of its times, by its IANA name.</param>
    public static string? Of(string cron, TimeZoneInfo zone)
    {
        var fields = cron.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
        if (fields.Length != 5
            || Field(fields[0], 0, 59) is not { } minute
            || Field(fields[1], 0, 23) is not { } hour
            || Field(fields[2], 1, 31) is not { } day
            || Field(Months(fields[3]), 1, 12) is not { } month
            || Weekdays(fields[4]) is not { } weekdays)
            return null;
        var name = zone.HasIanaId ? zone.Id : TimeZoneInfo.TryConvertWindowsIdToIanaId(zone.Id, out var iana) ? iana : zone.Id;
        return $"{(weekdays.Length > 0 ? weekdays + " " : "")}*-{month}-{day} {hour}:{minute}:00 {name}";
    }

    // Lists, ranges and steps, written out number by number where there are several: the grammars differ in what a range with a step is.
    private static string? Field(string text, int least, int most) =>
        Numbers(text, least, most) is not { } numbers ? null
        : numbers.Count == most - least + 1 ? "*"
        : string.Join(',', numbers.Select(number => number.ToString("00", CultureInfo.InvariantCulture)));

    private static string? Weekdays(string text)
    {
        for (var day = 0; day < 7; day++)
            text = text.Replace(s_days[day], day.ToString(CultureInfo.InvariantCulture), StringComparison.OrdinalIgnoreCase);
        if (Numbers(text, 0, 7) is not { } numbers)
            return null;
        var days = numbers.Select(number => number % 7).Distinct().Order().ToList();
        return days.Count == 7 ? "" : string.Join(',', days.Select(day => s_days[day]));
    }

    private static string Months(string text)
    {
        for (var month = 0; month < 12; month++)
            text = text.Replace(s_months[month], (month + 1).ToString(CultureInfo.InvariantCulture), StringComparison.OrdinalIgnoreCase);
        return text;
    }

    private static SortedSet<int>? Numbers(string text, int least, int most)
    {
        var numbers = new SortedSet<int>();
        foreach (var item in text.Split(','))
        {
            var (range, step) = item.Split('/') is [var of, var by] ? (of, Number(by)) : (item, 1);
            if (step is not > 0)
                return null;
            var (from, to) = range == "*"
                ? (least, most)
                : range.Split('-') is [var low, var high] ? (Number(low) ?? -1, Number(high) ?? -1) : (
                Number(range) ?? -1, item.Contains('/', StringComparison.Ordinal) ? most : Number(range) ?? -1);
            if (from < least || to > most || to < from)
                return null;
            for (var number = from; number <= to; number += step.Value)
                numbers.Add(number);
        }

        return numbers;
    }

    private static int? Number(string text) =>
        int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;
}

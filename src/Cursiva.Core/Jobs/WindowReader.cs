using System.Globalization;
using System.Text.RegularExpressions;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the windows in which a pull asks for its listing.</summary>
internal sealed partial class WindowReader(Reading reading)
{
    private const int MostWindows = 100_000;

    public Window? Read(SectionReader pull)
    {
        if (pull.Inside(PullKeys.Window, reading) is not { } section)
            return null;
        var form = section.Choice(PerKeys.WindowForm) is { } word ? Enum.Parse<WindowForm>(word, ignoreCase: true) : WindowForm.Time;
        var (from, to, step) = (
            Time(section, PerKeys.WindowFrom, form), Time(section, PerKeys.WindowTo, form), section.Duration(PerKeys.WindowStep));
        if (from is null || to is null || step is null)
            return null;
        var window = new Window(from.Value, to.Value, step.Value)
        {
            AtMost = section.Whole(PerKeys.AtMostRows),
            Form = form,
            EndLess = section.Duration(PerKeys.EndLess) ?? TimeSpan.Zero,
        };
        var unit = form == WindowForm.Date ? TimeSpan.FromDays(1) : TimeSpan.FromSeconds(1);
        if (step.Value.Ticks % unit.Ticks != 0
            || step < unit
            || window.EndLess.Ticks % unit.Ticks != 0
            || window.EndLess > step
            || (form != WindowForm.Date && window.EndLess == step))
            reading.Add(
                section.Place,
                $"step and end-less of {section.Title} do not match the format that is sent",
                form == WindowForm.Date
                    ? "write whole days, with step longer than end-less: 7d, 1d"
                    : "write whole seconds, with step longer than end-less: 1h, 1s");
        else if (from >= to)
            reading.Add(
                section.At(PerKeys.WindowTo),
                $"{section.Title} ends at {RelativeTime.Write(to.Value)}, not after its beginning at {RelativeTime.Write(from.Value)}",
                "give a later end");
        else if (window.Count > MostWindows)
            reading.Add(
                section.At(PerKeys.WindowStep),
                $"{section.Title} would be {window.Count:N0} windows",
                $"write a longer step; at most {MostWindows:N0} windows are allowed");
        return window;
    }

    private DateTimeOffset? Time(SectionReader section, Key key, WindowForm form)
    {
        if (section.Text(key) is not { } text)
            return null;
        if (Whole().IsMatch(text)
            && DateTimeOffset.TryParse(
                text, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal, out var time))
        {
            if (form != WindowForm.Date || time.TimeOfDay == TimeSpan.Zero)
                return time;
            reading.Add(
                section.At(key),
                $"'{text}' is in the middle of a day of UTC, and {section.Title} sends days",
                "write a day: 2026-03-01, or an input rounded down to a day of UTC");
            return null;
        }

        reading.Add(
            section.At(key),
            $"'{text}' is not a time with an offset ({key.Name} in {section.Title})",
            "write 2026-03-01, 2026-03-01T06:00:00Z, or an input: \"{since}\"");
        return null;
    }

    [GeneratedRegex(@"^\d{4}-\d\d-\d\d(T\d\d:\d\d(:\d\d(\.\d{1,7})?)?(Z|[-+]\d\d:\d\d))?$")]
    private static partial Regex Whole();
}

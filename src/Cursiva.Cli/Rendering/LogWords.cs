using System.Globalization;
using Cursiva.Core.Jobs;

namespace Cursiva.Cli.Rendering;

/// <summary>How values stand in the message of a log line: spans of time for people, whole numbers grouped by commas.</summary>
internal sealed class LogWords : IFormatProvider, ICustomFormatter
{
    public object? GetFormat(Type? formatType) =>
        formatType == typeof(ICustomFormatter) ? this : CultureInfo.InvariantCulture.GetFormat(formatType!);

    public string Format(string? format, object? arg, IFormatProvider? formatProvider) => arg switch
    {
        TimeSpan span => Durations.ForPeople(span),
        int or long => string.Create(CultureInfo.InvariantCulture, $"{arg:N0}"),
        IFormattable other => other.ToString(format, CultureInfo.InvariantCulture),
        _ => arg?.ToString() ?? "",
    };
}

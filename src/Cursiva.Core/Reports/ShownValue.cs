using System.Buffers.Text;
using System.Text;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>Values as people read them in pages and workbooks: times in the job's zone, without the letters of ISO 8601.</summary>
internal sealed class ShownValue(TimeZoneInfo zone)
{
    private const int Seconds = 19;

    /// <summary>The zone's name, for what stands above times.</summary>
    public string Zone => zone.Id;

    /// <summary>A value for people; everything but a time in UTC stays as it is.</summary>
    /// <param name="space">Room for the text of a time, 64 bytes.</param>
    public ReadOnlySpan<byte> Of(ReadOnlySpan<byte> value, ValueForm form, Span<byte> space)
    {
        if (form != ValueForm.Time
            || value.Length < Seconds + 1
            || value.Length > space.Length
            || value[10] != 'T'
            || value[^1] != 'Z'
            || Parse(value) is not { } utc)
            return value;
        var local = TimeZoneInfo.ConvertTimeFromUtc(utc, zone);
        local.TryFormat(space, out _, "yyyy-MM-dd HH:mm:ss", System.Globalization.CultureInfo.InvariantCulture);
        var fraction = value[Seconds..^1];
        fraction.CopyTo(space[Seconds..]);
        return space[..(Seconds + fraction.Length)];
    }

    /// <summary>A value for people, as text.</summary>
    public string Of(ReadOnlySpan<byte> value, ValueForm form)
    {
        Span<byte> space = stackalloc byte[64];
        return Encoding.UTF8.GetString(Of(value, form, space));
    }

    /// <summary>What stands above a column.</summary>
    public string Head(ResultColumn column) => column.Form == ValueForm.Time ? $"{column.Name} ({zone.Id})" : column.Name;

    // To the second; a year of more than four digits is none.
    private static DateTime? Parse(ReadOnlySpan<byte> iso) =>
        Utf8Parser.TryParse(iso[..4], out int year, out var digits) && digits == 4 && year > 0
        && Utf8Parser.TryParse(iso[5..7], out int month, out _) && Utf8Parser.TryParse(iso[8..10], out int day, out _)
        && Utf8Parser.TryParse(iso[11..13], out int hour, out _) && Utf8Parser.TryParse(
            iso[14..16], out int minute, out _) && Utf8Parser.TryParse(
            iso[17..19], out int second, out _)
        && month is >= 1 and <= 12 && day >= 1 && day <= DateTime.DaysInMonth(year, month) && hour < 24 && minute < 60 && second < 60
            ? new DateTime(year, month, day, hour, minute, second, DateTimeKind.Utc)
            : null;
}

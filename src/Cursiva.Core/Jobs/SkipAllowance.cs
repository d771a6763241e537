using System.Globalization;

namespace Cursiva.Core.Jobs;

/// <summary>How many strands of a pull may be skipped.</summary>
/// <param name="Count">At most so many; null when a share counts.</param>
/// <param name="Share">At most this share of the strands, 0 to 1.</param>
public sealed record SkipAllowance(int? Count, double Share)
{
    /// <summary>What an allowance has to look like, for messages.</summary>
    public const string Right = "write a count or a percentage: 10, 5%";

    /// <summary>Reads <c>10</c> or <c>5%</c>; null when the text is neither.</summary>
    public static SkipAllowance? TryParse(string text)
    {
        if (text.EndsWith('%'))
            return double.TryParse(
                text.AsSpan(0, text.Length - 1),
                NumberStyles.AllowDecimalPoint,
                CultureInfo.InvariantCulture,
                out var percent) && percent <= 100
                ? new SkipAllowance(null, percent / 100)
                : null;
        return int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var count) ? new SkipAllowance(count, 1) : null;
    }

    /// <summary>Whether so many skipped strands of so many are within it.</summary>
    public bool Allows(long skipped, long strands) => Count is { } count ? skipped <= count : skipped <= Share * strands;

    /// <inheritdoc/>
    public override string ToString() =>
        Count is { } count
            ? count.ToString(CultureInfo.InvariantCulture)
            : $"{(Share * 100).ToString("0.##", CultureInfo.InvariantCulture)}%";
}

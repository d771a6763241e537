using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>Values as people read them in a page.</summary>
internal static class ShownValue
{
    /// <summary>A value for a page: times without the letters of ISO 8601, everything else as it is.</summary>
    /// <param name="space">At least as long as the value.</param>
    public static ReadOnlySpan<byte> Of(ReadOnlySpan<byte> value, ValueForm form, Span<byte> space)
    {
        if (form != ValueForm.Time || value.Length < 20 || value.Length > space.Length || value[10] != 'T')
            return value;
        value.CopyTo(space);
        space[10] = (byte)' ';
        var length = value[^1] == 'Z' ? value.Length - 1 : value.Length;
        return space[..length];
    }

    /// <summary>What stands above a column.</summary>
    public static string Head(ResultColumn column) => column.Form == ValueForm.Time ? $"{column.Name} (UTC)" : column.Name;
}

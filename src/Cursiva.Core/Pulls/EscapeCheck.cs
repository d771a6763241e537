namespace Cursiva.Core.Pulls;

/// <summary>Checks what stands behind backslashes (RFC 8259 section 7).</summary>
internal static class EscapeCheck
{
    /// <exception cref="PageException">A backslash is followed by something that it cannot escape.</exception>
    public static void Check(ReadOnlySpan<byte> bytes)
    {
        var place = 0;
        while (true)
        {
            var next = bytes[place..].IndexOf((byte)'\\');
            if (next < 0)
                return;
            place += next + 1;
            if (place >= bytes.Length
                || !"\"\\/bfnrtu"u8.Contains(bytes[place])
                || (bytes[place] == 'u' && !FourHexDigits(bytes[(place + 1)..])))
                throw new PageException($"not JSON: an invalid escape, at byte {place}");
            place++;
        }
    }

    private static bool FourHexDigits(ReadOnlySpan<byte> bytes) =>
        bytes.Length >= 4
            && char.IsAsciiHexDigit((char)bytes[0])
            && char.IsAsciiHexDigit((char)bytes[1])
            && char.IsAsciiHexDigit((char)bytes[2])
            && char.IsAsciiHexDigit((char)bytes[3]);
}

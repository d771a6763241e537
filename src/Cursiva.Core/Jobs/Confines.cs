namespace Cursiva.Core.Jobs;

/// <summary>
/// Decides whether a value from outside may stand where a job puts it (promise 12): in a header, a host, a path, the name of a secret.
/// Every answer is null where it may, and otherwise says what is wrong, without repeating the value.
/// </summary>
public static class Confines
{
    private const int LongestLabel = 63;
    private const int LongestName = 128;

    /// <summary>A header's value (RFC 9110 section 5.5): one line, no control character.</summary>
    public static string? Header(string value)
    {
        for (var i = 0; i < value.Length; i++)
        {
            if (char.IsControl(value[i]))
                return $"{(value[i] is '\r' or '\n' ? "a line break" : "a control character")} after {i} {(i == 1 ? "character" : "characters")}";
        }

        return null;
    }

    /// <summary>A header's name (RFC 9110 section 5.6.2).</summary>
    public static bool IsHeaderName(string name) =>
        name.Length > 0 && name.All(c => char.IsAsciiLetterOrDigit(c) || "!#$%&'*+-.^_`|~".Contains(c));

    /// <summary>A value in the host of an address: one label (RFC 1123 section 2.1) or a piece of one.</summary>
    public static string? HostLabel(string value) =>
        value.Length is > 0 and <= LongestLabel && value.All(c => char.IsAsciiLetterOrDigit(c) || c == '-')
            ? null
            : "more than one label of a host name (letters, digits and hyphens)";

    /// <summary>A mail's receiver or sender (RFC 5322 section 3.4): one address, with or without a name.</summary>
    public static string? MailAddress(string value) =>
        Header(value)
            ?? (MimeKit.MailboxAddress.TryParse(value, out var address) && address.Address.Contains('@', StringComparison.Ordinal)
                ? null
                : "not a mail address");

    /// <summary>The path of an address: no segment that leads upwards, however it is encoded (RFC 3986 section 5.2.4).</summary>
    public static string? Path(string path) =>
        path.Split('/').SelectMany(segment => Decoded(segment).Split('/', '\\')).Any(segment => segment is "." or "..")
            ? "a segment . or .., which would leave the API's base"
            : null;

    /// <summary>A value of a row as a segment of a secret's name: letters, digits, <c>.</c>, <c>_</c> and <c>-</c>.</summary>
    public static string? SecretName(string value) =>
        value.Length is > 0 and <= LongestName && value is not ("." or "..") && value.All(
            c => char.IsAsciiLetterOrDigit(c) || c is '.' or '_' or '-')
            ? null
            : "more than one safe segment of a name (letters, digits, '.', '_' and '-')";

    private static string Decoded(string segment)
    {
        // Servers decode once, gateways before them once more.
        for (var i = 0; i < 3 && segment.Contains('%', StringComparison.Ordinal); i++)
            segment = Uri.UnescapeDataString(segment);
        return segment;
    }
}

namespace Cursiva.Core.Http;

/// <summary>Single query parameters of an address; all others stay as they are, byte for byte.</summary>
public static class AddressQuery
{
    /// <summary>The address with a query parameter set.</summary>
    /// <param name="replace">Whether a value that is there is replaced; otherwise it stays.</param>
    /// <param name="add">Whether the value is added to those that are there.</param>
    public static Uri With(Uri address, string name, string value, bool replace = true, bool add = false)
    {
        var parts = PartsOf(address);
        var place = add ? -1 : parts.FindIndex(part => IsOf(part, name));
        if (place >= 0 && !replace)
            return address;

        var text = $"{Uri.EscapeDataString(name)}={Uri.EscapeDataString(value)}";
        if (place >= 0)
            parts[place] = text;
        else
            parts.Add(text);
        return new UriBuilder(address) { Query = string.Join('&', parts) }.Uri;
    }

    /// <summary>The address without some query parameters.</summary>
    public static Uri Without(Uri address, IEnumerable<string> names)
    {
        var parts = PartsOf(address);
        return parts.RemoveAll(part => names.Any(name => IsOf(part, name))) == 0
            ? address
            : new UriBuilder(address) { Query = string.Join('&', parts) }.Uri;
    }

    private static List<string> PartsOf(Uri address) => [.. address.Query.TrimStart('?').Split('&', StringSplitOptions.RemoveEmptyEntries)];

    // A server may write a name back in another encoding than we do.
    private static bool IsOf(string part, string name) => Uri.UnescapeDataString(part.Split('=')[0].Replace('+', ' ')) == name;
}

using Cursiva.Core.Jobs;

namespace Cursiva.Core.Apis;

/// <summary>The addresses of an API.</summary>
public static class ApiAddress
{
    /// <summary>
    /// The API's base with the path appended, never resolved: one slash between them whatever either has. Query parameters of
    /// the API are added where the path does not have them itself.
    /// </summary>
    public static Uri Of(Api api, string path)
    {
        var question = path.IndexOf('?', StringComparison.Ordinal);
        var (plain, query) = question < 0 ? (path, "") : (path[..question], path[(question + 1)..]);
        var joined = api.Base.GetLeftPart(UriPartial.Path).TrimEnd('/') + (plain.Length > 0 ? "/" + plain.TrimStart('/') : "");
        var address = new UriBuilder(joined) { Query = string.Join('&', new[] { api.Base.Query.TrimStart('?'), query }.Where(part => part.Length > 0)) }.Uri;
        foreach (var (name, value) in api.QueryParameters)
            address = WithParameter(address, name, value, replace: false);
        return address;
    }

    /// <summary>The address with a query parameter set; all others stay as they are, byte for byte.</summary>
    /// <param name="replace">Whether a value that is there is replaced; otherwise it stays.</param>
    /// <param name="add">Whether the value is added to those that are there.</param>
    public static Uri WithParameter(Uri address, string name, string value, bool replace = true, bool add = false)
    {
        var encoded = Uri.EscapeDataString(name);
        List<string> parts = [.. address.Query.TrimStart('?').Split('&', StringSplitOptions.RemoveEmptyEntries)];
        var place = parts.FindIndex(part => part == encoded || part.StartsWith(encoded + "=", StringComparison.Ordinal));
        if (add)
            place = -1;
        if (place >= 0 && !replace)
            return address;

        var text = $"{encoded}={Uri.EscapeDataString(value)}";
        if (place >= 0)
            parts[place] = text;
        else
            parts.Add(text);
        return new UriBuilder(address) { Query = string.Join('&', parts) }.Uri;
    }

    /// <summary>Whether an address has the origin (RFC 6454 section 4) of the API's base.</summary>
    public static bool IsWithin(Api api, Uri address) =>
        address.IsAbsoluteUri
        && address.Scheme == api.Base.Scheme
        && address.Host.Equals(api.Base.Host, StringComparison.OrdinalIgnoreCase)
        && address.Port == api.Base.Port;

    /// <summary>Whether links may lead to an address, and credentials with them: the origin of the API, and those that it names besides.</summary>
    /// <returns>True for both; false for the link alone; null for neither.</returns>
    public static bool? MayGo(Api api, Uri address) =>
        IsWithin(api, address) ? true : address.IsAbsoluteUri && api.AlsoOrigins.TryGetValue(OriginOf(address), out var signedIn) ? signedIn : null;

    public static string OriginOf(Uri address) => address.GetLeftPart(UriPartial.Authority);
}

using System.Text.RegularExpressions;

namespace Cursiva.Core.Drafts;

/// <summary>An address as a job declares it: the base of its API, the path below it, and query parameters.</summary>
/// <param name="Base">Scheme, host, and the path but for its last segment, without a slash at the end.</param>
/// <param name="Path">The last segment, with a slash before it.</param>
public sealed partial record AskedAddress(Uri Whole, string Base, string Path, IReadOnlyList<KeyValuePair<string, string>> Query)
{
    /// <summary>What its rows are called.</summary>
    public string Name => YamlText.Name(Version().IsMatch(Path) ? "listing" : Path.Trim('/'));

    /// <summary>Whether a text is an address and not a file.</summary>
    public static bool Is(string text) => text.StartsWith("https://", StringComparison.OrdinalIgnoreCase) || text.StartsWith("http://", StringComparison.OrdinalIgnoreCase);

    /// <summary>Reads an address; null where it is none of http or https, or has a name and password in it.</summary>
    public static AskedAddress? TryParse(string text)
    {
        if (!Is(text) || !Uri.TryCreate(text, UriKind.Absolute, out var whole) || whole.UserInfo.Length > 0 || whole.Host.Length == 0)
            return null;
        var path = whole.AbsolutePath.Replace("{", "%7B", StringComparison.Ordinal).Replace("}", "%7D", StringComparison.Ordinal);

        // A number at the end, as in /pages/1 or /depots/17, belongs to what stands before it.
        var cut = path.TrimEnd('/').LastIndexOf('/');
        if (cut > 0 && Digits().IsMatch(path[(cut + 1)..].TrimEnd('/')))
            cut = path.LastIndexOf('/', cut - 1);
        cut = Math.Max(cut, 0);
        var query = whole.Query.TrimStart('?').Split('&', StringSplitOptions.RemoveEmptyEntries)
            .Select(part => part.Split('=', 2))
            .Select(pair => KeyValuePair.Create(Text(pair[0]), pair.Length > 1 ? Text(pair[1]) : ""));
        return new AskedAddress(whole, whole.GetLeftPart(UriPartial.Authority) + path[..cut], path[cut..], [.. query]);
    }

    private static string Text(string part) => Uri.UnescapeDataString(part.Replace('+', ' '));

    [GeneratedRegex(@"^/?(?:v\d[\d.]*|api|rest|\d*)/?$", RegexOptions.IgnoreCase)]
    private static partial Regex Version();

    [GeneratedRegex(@"^\d+$")]
    private static partial Regex Digits();
}

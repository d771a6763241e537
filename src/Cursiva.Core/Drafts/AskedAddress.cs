using System.Text.RegularExpressions;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Drafts;

/// <summary>An address as a job declares it: the base of its API, the path below it, and query parameters.</summary>
/// <param name="Base">Scheme, host, and the path but for its last segment, without a slash at the end.</param>
/// <param name="Path">The last segment, with a slash before it.</param>
public sealed partial record AskedAddress(Uri Whole, string Base, string Path, IReadOnlyList<KeyValuePair<string, string>> Query)
{
    /// <summary>What its rows are called.</summary>
    public string Name => YamlText.Name(Version().IsMatch(Path) ? "listing" : Path.Trim('/'));

    /// <summary>The values of query parameters that sign somebody in.</summary>
    public IEnumerable<string> Secrets =>
        Query.Where(pair => pair.Value.Length > 0 && ShownAddress.IsMasked(pair.Key)).Select(pair => pair.Value);

    /// <summary>The address as a job may have it: in the place of each secret, the variable that it is to be put into.</summary>
    public AskedAddress Kept =>
        this with
        {
            Query = [.. Query.Select(
                pair => pair.Value.Length > 0 && ShownAddress.IsMasked(pair.Key)
                    ? KeyValuePair.Create(pair.Key, $"{SecretSource.Environment}:{Variable(pair.Key)}")
                    : pair)],
        };

    /// <summary>The variables that <see cref="Kept"/> reads.</summary>
    public IReadOnlyList<string> Variables =>
        [.. Query.Where(pair => pair.Value.Length > 0 && ShownAddress.IsMasked(pair.Key)).Select(pair => Variable(pair.Key)).Distinct()];

    /// <summary>Makes sure that nothing of an address or body would be read as the source of a secret, once it stands in a job.</summary>
    /// <param name="body">A JSON body; null for none.</param>
    /// <exception cref="RefusedException">Something would.</exception>
    public void CheckValues(string? body)
    {
        if (Query.Select(pair => pair.Value).Concat(body is null ? [] : JsonText.Texts(body)).FirstOrDefault(
            value => SecretSource.TryParse(value) is not null) is { } wrong)
        {
            throw new RefusedException(new Refusal(
                Outcome.WrongCommandLine, $"the value '{OneLine.Of(wrong)}' would be read as a secret source in a job")
            {
                NextStep = "remove it here; in the job, write it as an input and use that",
            });
        }
    }

    /// <summary>Whether a text is an address and not a file.</summary>
    public static bool Is(string text) =>
        text.StartsWith("https://", StringComparison.OrdinalIgnoreCase) || text.StartsWith("http://", StringComparison.OrdinalIgnoreCase);

    /// <summary>Reads an address; null where it is neither http nor https, or has a name and password in it.</summary>
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

    private static string Variable(string parameter) => YamlText.Name(parameter).ToUpperInvariant();

    private static string Text(string part) => Uri.UnescapeDataString(part.Replace('+', ' '));

    [GeneratedRegex(@"^/?(?:v\d[\d.]*|api|rest|\d*)/?$", RegexOptions.IgnoreCase)]
    private static partial Regex Version();

    [GeneratedRegex(@"^\d+$")]
    private static partial Regex Digits();
}

using System.Text.RegularExpressions;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Http;

/// <summary>Addresses as they are shown and recorded: without what signs somebody in (promise 3).</summary>
public static partial class ShownAddress
{
    /// <summary>An address without its user and without the values of parameters that carry signatures, tokens or keys.</summary>
    public static string Of(Uri address) => InText(address.IsAbsoluteUri ? address.AbsoluteUri : address.OriginalString);

    /// <summary>Words with such addresses in them, whole or cut off.</summary>
    public static string InText(string text)
    {
        if (text.Contains("://", StringComparison.Ordinal))
            text = User().Replace(text, "$1" + Redactor.Mask + "@");
        return text.AsSpan().ContainsAny('?', '&', ';')
            ? Parameter().Replace(
                text, match => IsMasked(match.Groups["name"].Value) ? match.Groups["before"].Value + Redactor.Mask : match.Value)
            : text;
    }

    /// <summary>
    /// Whether the value of a query parameter of this name is not shown. Tokens that only say where a listing goes on are.
    /// </summary>
    public static bool IsMasked(string parameter) => Name().IsMatch(parameter) && !Paging().IsMatch(parameter);

    [GeneratedRegex(@"([a-zA-Z][a-zA-Z0-9+.-]*://)[^\s/?#@""'<>]+@")]
    private static partial Regex User();

    [GeneratedRegex(@"(?<before>(?:[?&;]|\\u0026)(?<name>[A-Za-z0-9_.%~-]+)=)[^&\s""'<>#\\;]+")]
    private static partial Regex Parameter();

    [GeneratedRegex(@"(?:(?:sig|signature|token|secret|password|passwd|credential|assertion|api-?_?key|access-?_?key|subscription-?_?key)|^(?:key|code|auth|jwt|sas))$", RegexOptions.IgnoreCase)]
    private static partial Regex Name();

    [GeneratedRegex(@"(?:page|next|continu\w*|skip|sync|delta|change|changes|cursor|resume)[-_]?token$", RegexOptions.IgnoreCase)]
    private static partial Regex Paging();
}

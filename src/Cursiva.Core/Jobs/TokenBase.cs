using Cursiva.Core.Jobs.Shape;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Jobs;

/// <summary>A base that the token endpoint's answer has a part in. It stays within the origins that the job declares (promise 4).</summary>
public static class TokenBase
{
    private const string Any = "*.";

    /// <summary>Reads the base of an API where it has places of the token's answer; null otherwise.</summary>
    /// <returns>The base as it is written, what stands for it until somebody signs in, and the origins it may have.</returns>
    internal static (string Written, Uri StandsIn, IReadOnlyList<string> Within)? Read(SectionReader section, Reading reading)
    {
        if (section.RawText(ApiKeys.Base) is not { } raw || !raw.Contains("{token/", StringComparison.Ordinal))
        {
            if (section.Has(ApiKeys.BaseWithin))
                reading.Add(
                    section.At(ApiKeys.BaseWithin),
                    $"base-within: of {section.Title}, whose base is not from the token endpoint's answer",
                    "remove it, or write base: \"{token/POINTER}\"");
            return null;
        }

        var place = section.At(ApiKeys.Base);
        if (reading.FillBut(raw, place, Presentation.IsOfToken, ["token/POINTER"]) is not { } template)
            return null;
        var within = new List<string>();
        if (!raw.StartsWith('{'))
        {
            // The origin is written, and the answer says something after it.
            var origin = template.Fill(_ => "x");
            if (Uri.TryCreate(origin, UriKind.Absolute, out var whole)
                && IsSafe(whole)
                && raw.IndexOf("{token/", StringComparison.Ordinal) > whole.GetLeftPart(UriPartial.Authority).Length)
                within.Add(whole.GetLeftPart(UriPartial.Authority));
            else
                reading.Add(
                    place,
                    $"'{raw}' has a value of the token endpoint's answer inside its origin",
                    "use {token/POINTER} as its beginning, with base-within:, or after the origin: https://api.brackwater.example/{token/POINTER}");
        }
        else if (!section.Has(ApiKeys.BaseWithin))
        {
            reading.Add(
                place,
                $"{section.Title} has no 'base-within'",
                $"a base from the token endpoint's answer needs base-within: {ApiKeys.BaseWithin.Gist}");
        }

        foreach (var (text, at) in section.Texts(ApiKeys.BaseWithin))
        {
            if (Uri.TryCreate(text.Replace(Any, "any."), UriKind.Absolute, out var origin)
                && IsSafe(origin)
                && origin is { AbsolutePath: "/", Query.Length: 0, UserInfo.Length: 0 }
                && IsNarrow(text, origin))
                within.Add(text.TrimEnd('/'));
            else
                reading.Add(
                    at,
                    $"'{text}' is not an origin for base-within:",
                    "write https, a host, and the port unless it is the default; * can be the first label of a host if two or more labels follow: https://*.exchange.brackwater.example");
        }

        return (
            template.Text,
            within.Count > 0 && Uri.TryCreate(within[0].Replace(Any, "any."), UriKind.Absolute, out var standsIn) ? standsIn : new Uri(
                "https://invalid.example/"),
            within);
    }

    /// <summary>The base, filled in.</summary>
    /// <param name="fields">Places of the token endpoint's answer, by placeholder.</param>
    /// <exception cref="RefusedException">It is not an address, or leaves the declared origins.</exception>
    public static Uri Fill(Api api, IReadOnlyDictionary<string, string> fields)
    {
        // What begins the address is an address; everything else is a segment of its path.
        var template = Template.TryParse(api.TokenBase!, out _)!;
        var isFirst = api.TokenBase!.StartsWith('{');
        var filled = string.Concat(
            template.Parts.Select(
                (part, i) => !part.IsName
                    ? part.Text
                    : i == 0 && isFirst ? Value(api, fields, part.Text).TrimEnd('/') : Segment(api, Value(api, fields, part.Text))));
        if (Uri.TryCreate(filled, UriKind.Absolute, out var address)
            && IsSafe(address)
            && address is { UserInfo.Length: 0, Query.Length: 0, Fragment.Length: 0 }
            && api.BaseWithin.Any(origin => IsWithin(address, origin)))
            return address;
        throw new RefusedException(new Refusal(
            Outcome.ApiFailed,
            $"the token endpoint's answer leads API '{api.Name}' to {filled}, which base-within: does not allow; nothing was sent there")
        {
            Cause = $"the token goes to {string.Join(", ", api.BaseWithin)}, as the job declares",
            NextStep = "if the API really is there, add its origin to base-within:",
        });
    }

    private static string Value(Api api, IReadOnlyDictionary<string, string> fields, string name) =>
        fields.GetValueOrDefault(name)
            ?? throw new RefusedException(new Refusal(
                Outcome.ApiFailed,
                $"the base of API '{api.Name}' uses {name["token".Length..]} from the token endpoint's answer, and nobody has signed in for this request")
            {
                NextStep = "use the API's identity",
            });

    private static string Segment(Api api, string value) =>
        Confines.Path(value) is null && !value.Contains('/')
            ? Uri.EscapeDataString(value)
            : throw new RefusedException(new Refusal(
                Outcome.ApiFailed,
                $"the token endpoint's answer has '{value}' for a segment of the base of API '{api.Name}'; nothing was sent there")
            {
                Cause = "a path segment must not contain a slash, and must not be . or ..",
            });

    // Https, or http on the loopback address.
    private static bool IsSafe(Uri address) => address.Scheme == "https" || address is { Scheme: "http", IsLoopback: true };

    private static bool IsNarrow(string text, Uri origin) =>
        !text.Contains('*')
            || (text.StartsWith($"{origin.Scheme}://{Any}", StringComparison.Ordinal)
                && text.IndexOf('*', text.IndexOf('*', StringComparison.Ordinal) + 1) < 0
                && origin.Host.Split('.').Length > 2
                && !origin.IsLoopback);

    private static bool IsWithin(Uri address, string origin)
    {
        var declared = new Uri(origin.Replace(Any, "any."));
        if (address.Scheme != declared.Scheme || address.Port != declared.Port)
            return false;
        if (!origin.Contains(Any, StringComparison.Ordinal))
            return address.IdnHost.Equals(declared.IdnHost, StringComparison.OrdinalIgnoreCase);
        var dot = address.IdnHost.IndexOf('.', StringComparison.Ordinal);
        return dot > 0
            && address.HostNameType == UriHostNameType.Dns
            && address.IdnHost[dot..].Equals(declared.IdnHost["any".Length..], StringComparison.OrdinalIgnoreCase);
    }
}

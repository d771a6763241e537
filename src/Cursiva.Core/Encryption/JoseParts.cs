namespace Cursiva.Core.Encryption;

/// <summary>Looks at the parts of one's own JWE or JWS for comparisons.</summary>
internal static class JoseParts
{
    /// <summary>Whether the header has the members that it should have.</summary>
    public static bool Header(string encoded, (string Name, string? Wanted)[] wanted, List<ComparedStep> steps)
    {
        try
        {
            using var header = ProtectedHeader.Read(encoded);
            foreach (var (name, value) in wanted.Where(item => item.Wanted is not null && header.Member(item.Name) != item.Wanted))
            {
                steps.Add(
                    new(
                        "header",
                        false,
                        $"{name} is {(header.Member(name) is { } other ? $"'{other}'" : "missing")}, and should be '{value}'"));
                return false;
            }
        }
        catch (PayloadException error)
        {
            steps.Add(new("header", false, error.Message));
            return false;
        }

        steps.Add(
            new(
                "header",
                true,
                string.Join(", ", wanted.Where(item => item.Wanted is not null).Select(item => $"{item.Name} {item.Wanted}"))));
        return true;
    }

    /// <summary>Whether a part is base64url without padding.</summary>
    public static bool IsUrl(string part, string name, List<ComparedStep> steps)
    {
        var wrong = part.Contains(
            '=', StringComparison.Ordinal) ? "it is padded with =, but base64url here must not be (RFC 7515 section 2)"
            : part.AsSpan().ContainsAny('+', '/') ? "it is base64 (+ and /), but must be base64url (- and _)"
            : part.Any(char.IsWhiteSpace) ? "it has white space or line breaks"
            : null;
        if (wrong is not null)
            steps.Add(new(name, false, wrong));
        return wrong is null;
    }
}

using System.Text;

namespace Cursiva.Core.Jobs;

/// <summary>An address with placeholders, whose values stay in their slot: one label in a host, encoded in a path or query.</summary>
public static class AddressTemplate
{
    /// <summary>A value that does not fit, and why.</summary>
    public sealed record Unfit(string Name, string What);

    /// <summary>The address with every name replaced.</summary>
    /// <param name="value">The value of a name.</param>
    /// <param name="isOutside">Which names have values from outside; others are filled in as they are.</param>
    /// <param name="wrong">The first value that does not fit; null when all do.</param>
    /// <param name="mayLead">Whether a value from outside at the very beginning may be an address itself.</param>
    public static string Fill(
        Template template, Func<string, string> value, Func<string, bool> isOutside, out Unfit? wrong, bool mayLead = false)
    {
        wrong = null;
        var address = new StringBuilder();
        foreach (var (text, isName) in template.Parts)
        {
            if (!isName || !isOutside(text))
            {
                address.Append(isName ? value(text) : text);
                continue;
            }

            var filled = value(text);
            if (address.Length == 0 && mayLead)
            {
                address.Append(filled);
                continue;
            }

            var (encoded, why) = Fit(address.ToString(), filled);
            if (why is not null)
                wrong ??= new Unfit(text, why);
            address.Append(encoded);
        }

        var whole = address.ToString();
        if (wrong is null
            && template.Names.FirstOrDefault(isOutside) is { } name
            && !(mayLead && template.Parts[0].IsName)
            && Confines.Path(PathOf(whole)) is { } upwards)
            wrong = new Unfit(name, upwards);
        return whole;
    }

    private static (string Encoded, string? Wrong) Fit(string before, string value)
    {
        var authority = before.IndexOf("://", StringComparison.Ordinal);
        var isPath = before.StartsWith('/') || (authority >= 0 && before.IndexOfAny(['/', '?', '#'], authority + 3) >= 0);
        if (isPath)
            return (Uri.EscapeDataString(value), null);
        return authority < 0
            ? (value, "the beginning of an address, which decides where credentials go")
            : (value, Confines.HostLabel(value));
    }

    private static string PathOf(string address)
    {
        var authority = address.IndexOf("://", StringComparison.Ordinal);
        var start = authority < 0 ? 0 : address.IndexOf('/', authority + 3);
        return start < 0 ? "" : address[start..].Split('?', '#')[0];
    }
}

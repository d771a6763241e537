using System.Text;

namespace Cursiva.Core.Secrets;

/// <summary>The forms that a secret takes on its way and that decoding does not lead back from.</summary>
internal static class SecretForms
{
    private const int LeastInside = 8;

    /// <summary>
    /// The base64 of a secret, standard and URL-safe, without padding; and what is the same of it wherever it stands inside something
    /// longer that is encoded, such as the credentials of HTTP Basic.
    /// </summary>
    public static IEnumerable<string> Base64Of(string secret)
    {
        var bytes = Encoding.UTF8.GetBytes(secret);
        List<string> forms = [Convert.ToBase64String(bytes).TrimEnd('=')];
        for (var before = 0; before < 3; before++)
        {
            var encoded = Convert.ToBase64String([.. new byte[before], .. bytes]).TrimEnd('=');
            var (from, to) = (before == 0 ? 0 : before + 1, encoded.Length - ((before + bytes.Length) % 3 == 0 ? 0 : 1));
            if (to - from >= LeastInside)
                forms.Add(encoded[from..to]);
        }

        return forms.Concat(forms.Select(form => form.Replace('+', '-').Replace('/', '_'))).Distinct(StringComparer.Ordinal);
    }

    /// <summary>Whether nobody would take it for a word of a sentence: it is long, or mixes letters, digits and signs.</summary>
    public static bool IsDistinctive(string secret)
    {
        if (secret.Length >= 24)
            return true;
        var (letters, digits) = (secret.Any(char.IsLetter), secret.Any(char.IsDigit));
        var signs = secret.Any(c => !char.IsLetterOrDigit(c) && c is not ('-' or '_' or '.' or ' ' or '/' or ':'));
        var mixed = secret.Skip(1).Any(char.IsUpper) && secret.Any(char.IsLower);
        return secret.Length >= 8 && letters && (digits || signs || mixed);
    }
}

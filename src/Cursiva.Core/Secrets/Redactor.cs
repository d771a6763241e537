using System.Text;
using System.Text.Encodings.Web;

namespace Cursiva.Core.Secrets;

/// <summary>
/// Knows every secret that was read or obtained, and takes them out of whatever is about to be shown or recorded (promise 3).
/// </summary>
public sealed class Redactor
{
    public const string Mask = "[secret]";

    // Shorter texts would take ordinary words apart, and protect nobody.
    private const int Shortest = 4;

    private readonly Lock _gate = new();
    private volatile string[] _known = [];

    /// <summary>Remembers a secret, in the forms it takes on the way: plain, percent-encoded, form-encoded, base64 and inside JSON.</summary>
    public SecretText Remember(string secret)
    {
        if (secret.Length >= Shortest)
        {
            string[] forms =
            [
                secret, Uri.EscapeDataString(secret), Uri.EscapeDataString(secret).Replace("%20", "+"),
                Convert.ToBase64String(Encoding.UTF8.GetBytes(secret)), JavaScriptEncoder.Default.Encode(secret),
            ];
            lock (_gate)
            {
                // The longest first, so that no form leaves half of another behind.
                _known = [.. _known.Union(forms, StringComparer.Ordinal).OrderByDescending(form => form.Length)];
            }
        }

        return new SecretText(secret);
    }

    /// <summary>The text with every known secret masked.</summary>
    public string Clean(string text)
    {
        foreach (var form in _known)
        {
            if (text.Contains(form, StringComparison.Ordinal))
                text = text.Replace(form, Mask);
        }

        return text;
    }
}

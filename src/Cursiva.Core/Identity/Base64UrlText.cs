using System.Buffers.Text;
using System.Text;

namespace Cursiva.Core.Identity;

/// <summary>Base64url without padding (RFC 7515 section 2).</summary>
internal static class Base64UrlText
{
    public static string Write(ReadOnlySpan<byte> bytes) => Base64Url.EncodeToString(bytes);

    public static string Write(string text) => Write(Encoding.UTF8.GetBytes(text));

    /// <summary>The bytes, or null when the text is not a base64url.</summary>
    public static byte[]? TryRead(string text)
    {
        if (!Base64Url.IsValid(text))
            return null;
        try
        {
            return Base64Url.DecodeFromChars(text);
        }
        catch (FormatException)
        {
            return null;
        }
    }
}

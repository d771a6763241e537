using System.Buffers;
using System.Buffers.Text;
using System.Text;

namespace Cursiva.Core.Encryption;

/// <summary>Base64url without padding (RFC 7515 section 2), and base64 in whatever form it came.</summary>
internal static class Base64
{
    public static string Url(ReadOnlySpan<byte> bytes) => Base64Url.EncodeToString(bytes);

    /// <summary>The bytes of base64url; a text that is none does not open.</summary>
    /// <exception cref="PayloadException">It is not a base64url.</exception>
    public static byte[] FromUrl(string text) => FromUrl(Encoding.UTF8.GetBytes(text));

    /// <summary>The bytes of base64url.</summary>
    /// <exception cref="PayloadException">It is not a base64url.</exception>
    public static byte[] FromUrl(ReadOnlySpan<byte> text)
    {
        // RFC 7515 appendix C: no padding, no white space.
        var bytes = GC.AllocateUninitializedArray<byte>(Base64Url.GetMaxDecodedLength(text.Length));
        return !text.Contains((byte)'=') && !text.ContainsAnyExceptInRange((byte)'!', (byte)'~')
            && Base64Url.DecodeFromUtf8(text, bytes, out var read, out var length) == OperationStatus.Done && read == text.Length
            ? length == bytes.Length ? bytes : bytes[..length]
            : throw new PayloadException("a part of it is not base64url without padding");
    }

    /// <summary>
    /// The bytes of a text in base64 or base64url; null where it is neither. Plain base64, the usual form, is read in one go.
    /// </summary>
    public static byte[]? TryAny(ReadOnlySpan<byte> text)
    {
        var bytes = GC.AllocateUninitializedArray<byte>(System.Buffers.Text.Base64.GetMaxDecodedFromUtf8Length(text.Length));
        return System.Buffers.Text.Base64.DecodeFromUtf8(text, bytes, out var read, out var length) == OperationStatus.Done
            && read == text.Length
            && length > 0
            ? length == bytes.Length ? bytes : bytes[..length]
            : TryAny(Encoding.UTF8.GetString(text));
    }

    /// <summary>The bytes of base64 or base64url, with or without padding and line breaks; null where it is neither.</summary>
    public static byte[]? TryAny(string text)
    {
        var bare = string.Concat(text.Where(c => !char.IsWhiteSpace(c))).TrimEnd('=').Replace('+', '-').Replace('/', '_');
        try
        {
            return bare.Length > 0 && Base64Url.IsValid(bare) ? Base64Url.DecodeFromChars(bare) : null;
        }
        catch (FormatException)
        {
            return null;
        }
    }
}

using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Encryption;

/// <summary>Says at which step of the chain one's own output begins to differ from what the job would send.</summary>
public static class PayloadComparison
{
    /// <summary>Compares what one's own program encrypted.</summary>
    /// <param name="own">Its output: the envelope, or the text alone.</param>
    /// <param name="plain">What should be inside.</param>
    /// <param name="key">The key that it is encrypted under; a private or shared one, where the content is to be compared, too.</param>
    /// <returns>The steps in their order, the last of them the first that differs.</returns>
    public static IReadOnlyList<ComparedStep> Encrypted(string own, byte[] plain, BodyEncryption declared, ExchangeKey key)
    {
        var steps = new List<ComparedStep>();
        if (TextOf(own, declared, steps) is not { } text)
            return steps;
        if (declared.Base64First)
            plain = SealedBody.ToBase64(plain, null);
        if (declared.Cipher == Ciphers.Jwe)
            Jwe(text, plain, declared, key, steps);
        else
            Plain(own, text, plain, declared, key, steps);
        return steps;
    }

    private static string? TextOf(string own, BodyEncryption declared, List<ComparedStep> steps)
    {
        if (declared.RequestAt is not { } at)
            return own.Trim();
        JsonNode? envelope;
        try
        {
            envelope = JsonNode.Parse(own);
        }
        catch (JsonException)
        {
            // The text alone can be compared, too.
            return own.Trim();
        }

        if (envelope is null or JsonValue)
            return envelope?.ToString() ?? "";
        if (JsonPlaces.Bytes(envelope, at) is { } found)
        {
            steps.Add(new("envelope", true, $"the encrypted body is at {at.Text}"));
            return Encoding.UTF8.GetString(found);
        }

        var names = envelope is JsonObject members ? string.Join(", ", members.Select(member => "/" + member.Key)) : "an array";
        var alike = envelope is JsonObject alikes
            ? alikes.FirstOrDefault(member => "/" + member.Key is var name && name.Equals(at.Text, StringComparison.OrdinalIgnoreCase)).Key
            : null;
        steps.Add(
            new(
                "envelope",
                false,
                alike is null
                    ? $"it has nothing at {at.Text}; it has {names}"
                    : $"it has /{alike}, but names of members are case-sensitive: write {at.Text}"));
        return null;
    }

    private static void Plain(string own, string text, byte[] plain, BodyEncryption declared, ExchangeKey key, List<ComparedStep> steps)
    {
        var (data, wrong) = TextForms.Read(text);
        steps.Add(new("base64", wrong.Count == 0, wrong.Count == 0 ? "as expected" : string.Join("; ", wrong)));
        if (data is null)
            return;
        var mode = SealedBody.ModeOf(declared.Cipher);
        if (ContentKey(own, declared, key, steps) is not { } content)
            return;
        var find = CipherSearch.Find(data, content, mode, plain);
        if (Opens(data, content, mode) is { } opened && find is null or { Mode: null, Key: null })
        {
            steps.Add(new("cipher text", true, $"decrypted with {declared.Cipher} and this key"));
            steps.Add(
                PlainComparison.Difference(opened, plain) is { } difference
                    ? new("plain text", false, difference)
                    : new("plain text", true, "as expected"));
            return;
        }

        if (find is null)
        {
            steps.Add(new("cipher text", false, data.Length % 16 == 0 || mode == PlainCipher.Gcm
                ? $"does not open with {declared.Cipher} and this key, nor in another mode or with half of the key: it was encrypted under another key, or changed"
                : $"has {data.Length:N0} bytes, which is not a multiple of 16: it was truncated, or encrypted in a stream mode"));
            return;
        }

        steps.Add(new("key", find.Key is null, find.Key is null ? "the right one" : $"it was encrypted {find.Key}"));
        steps.Add(
            new(
                "mode",
                find.Mode is null,
                find.Mode is null ? declared.Cipher : $"it was encrypted {find.Mode}, not with {declared.Cipher}"));
        if (find.Padding is { } padding)
            steps.Add(new("padding", false, padding));
        if (PlainComparison.Difference(find.Plain, plain) is { } other)
            steps.Add(new("plain text", false, other));
    }

    // The key of the content: the shared one, or the one that came wrapped.
    private static byte[]? ContentKey(string own, BodyEncryption declared, ExchangeKey key, List<ComparedStep> steps)
    {
        if (key.Secret is { } shared)
            return shared;
        if (declared.KeyAt is not { } at || own.TrimStart() is not ['{', ..] || JsonPlaces.Bytes(JsonNode.Parse(own)!, at) is not { } found)
        {
            steps.Add(
                new(
                    "wrapped key",
                    false,
                    declared.KeyAt is { } place
                        ? $"the envelope has none at {place.Text}"
                        : "the job does not declare its place (key-at:)"));
            return null;
        }

        var (wrapped, wrong) = TextForms.Read(Encoding.UTF8.GetString(found));
        if (wrong.Count > 0)
            steps.Add(new("wrapped key", false, string.Join("; ", wrong)));
        if (wrapped is null)
            return null;
        if (key.Rsa is not { } rsa || wrapped.Length != rsa.KeySize / 8)
        {
            steps.Add(
                new(
                    "wrapped key",
                    false,
                    $"has {wrapped.Length} bytes, but encryption under a {key.Words} gives {(key.Rsa?.KeySize ?? 0) / 8}: it belongs to another key"));
            return null;
        }

        if (!key.IsPrivate)
        {
            steps.Add(
                new(
                    "wrapped key",
                    true,
                    $"has the length of the {key.Words}; its content can be compared only with the private key, or with your own test key pair"));
            return null;
        }

        return Unwrapped(rsa, wrapped, declared.Algorithm ?? Ciphers.UnderPublicKeys[0], steps);
    }

    private static byte[]? Unwrapped(RSA rsa, byte[] wrapped, string wanted, List<ComparedStep> steps)
    {
        foreach (var (name, padding) in new[] { ("RSA-OAEP-256", RSAEncryptionPadding.OaepSHA256), ("RSA-OAEP", RSAEncryptionPadding.OaepSHA1), ("RSA1_5", RSAEncryptionPadding.Pkcs1) }.OrderByDescending(known => known.Item1 == wanted))
        {
            try
            {
                var content = rsa.Decrypt(wrapped, padding);
                var isText = content.Length is not (16 or 24 or 32) && Base64.TryAny(content) is { Length: 16 or 24 or 32 };
                steps.Add(
                    new(
                        "wrapped key",
                        name == wanted && !isText,
                        name != wanted
                            ? $"it was wrapped with {name}, not with {wanted}"
                            : isText ? "the key was encoded as base64 before it was wrapped: wrap its bytes" : $"decrypted with {wanted}"));
                return isText ? Base64.TryAny(content) : content;
            }
            catch (CryptographicException)
            {
                // The next way.
            }
        }

        steps.Add(
            new(
                "wrapped key",
                false,
                "does not open with this private key in any way: it was wrapped for another public key, such as that of another environment"));
        return null;
    }

    private static void Jwe(string text, byte[] plain, BodyEncryption declared, ExchangeKey key, List<ComparedStep> steps)
    {
        if (text.Split('.') is not [var header, var wrapped, var vector, var cipher, var tag])
        {
            steps.Add(
                new(
                    "form",
                    false,
                    $"it has {text.Split('.').Length} parts separated by dots, but a JWE in the compact form has five (RFC 7516 section 7.1)"));
            return;
        }

        steps.Add(new("form", true, "five parts"));
        foreach (var (part, name) in new[] { (header, "header"), (wrapped, "wrapped key"), (vector, "vector"), (cipher, "cipher text"), (tag, "tag") })
        {
            if (part.Length > 0 && !JoseParts.IsUrl(part, name, steps))
                return;
        }

        var algorithm = declared.Algorithm ?? (key.Secret is not null ? Ciphers.Direct : Ciphers.UnderPublicKeys[0]);
        if (!JoseParts.Header(header, [("alg", algorithm), ("enc", declared.Content), ("kid", key.Id)], steps))
            return;
        var content = AlgorithmNames.Content(declared.Content)!.Value;
        foreach (var (part, name, size) in new[] { (vector, "vector", ContentCipher.VectorSize(
            content)), (tag, "tag", ContentCipher.TagSize(content)) })
        {
            if (Base64.FromUrl(part) is var bytes && bytes.Length != size)
            {
                steps.Add(new(name, false, $"has {bytes.Length} bytes, and {declared.Content} has {size}"));
                return;
            }
        }

        if (key is { Secret: null, IsPrivate: false })
        {
            steps.Add(new("content", true, "cannot be compared with a public key; use your own test key pair"));
            return;
        }

        try
        {
            var opened = SealedText.Decrypt(text, [key]);
            steps.Add(new("content", true, "opens"));
            steps.Add(
                PlainComparison.Difference(opened, plain) is { } difference
                    ? new("plain text", false, difference)
                    : new("plain text", true, "as expected"));
        }
        catch (PayloadException)
        {
            steps.Add(new("content", false, WhyClosed(header, wrapped, vector, cipher, tag, content, key)));
        }
    }

    // What programs do instead of proving the header as it was sent.
    private static string WhyClosed(
        string header, string wrapped, string vector, string cipher, string tag, ContentAlgorithm content, ExchangeKey key)
    {
        var algorithm = AlgorithmNames.Key(ProtectedHeader.Read(header).Member("alg"))!.Value;
        var contentKey = KeyWrapping.Unwrap(key, algorithm, Base64.FromUrl(wrapped), ContentCipher.KeySize(content));
        foreach (var (words, proven) in new (string, byte[])[] { ("with nothing as additional data", []), ("with the decoded header as additional data", Base64.FromUrl(header)) })
        {
            try
            {
                ContentCipher.Decrypt(content, contentKey, Base64.FromUrl(vector), Base64.FromUrl(cipher), Base64.FromUrl(tag), proven);
                return $"it was encrypted {words}; use the header in base64url, as sent (RFC 7516 section 5.1)";
            }
            catch (PayloadException)
            {
                // The next way.
            }
        }

        return "does not open with this key: it was encrypted under another one, or changed";
    }

    private static byte[]? Opens(byte[] data, byte[] key, PlainCipher mode)
    {
        using var shared = new ExchangeKey { Secret = [.. key], IsPrivate = true };
        try
        {
            return PlainBox.Decrypt(Encoding.ASCII.GetBytes(Convert.ToBase64String(data)), "", shared, default, mode);
        }
        catch (PayloadException)
        {
            return null;
        }
    }
}

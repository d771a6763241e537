using System.Text;
using System.Text.Json.Nodes;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Encryption;

/// <summary>Bodies as an API wants them encrypted, and answers opened, in the envelope that the job declares.</summary>
public static class SealedBody
{
    /// <summary>The media type of a JWE that is the whole body (RFC 7516 section 9.2.1).</summary>
    public const string JoseType = "application/jose";

    /// <summary>Encrypts a body: as the whole of what is sent, into an envelope, or member by member.</summary>
    /// <param name="plain">The body; JSON where members are encrypted.</param>
    /// <param name="key">The other side's public key, or a shared one.</param>
    /// <param name="shown">Is told each step; null for nobody.</param>
    /// <returns>The body as it is sent, and its media type.</returns>
    /// <exception cref="PayloadException">The key is none for the cipher, or the body has no JSON to encrypt members of.</exception>
    public static (byte[] Body, string Type) Encrypt(
        byte[] plain, BodyEncryption declared, ExchangeKey key, Action<PayloadStep>? shown = null)
    {
        if (declared.Members.Count > 0)
            return (Members(plain, declared, key, shown), "application/json");
        var (text, wrapped) = Text(plain, declared, key, shown);
        if (declared.RequestAt is null && wrapped.Length == 0)
            return (Encoding.ASCII.GetBytes(text), declared.Cipher == Ciphers.Jwe ? JoseType : "text/plain");
        var envelope = new JsonObject();
        JsonPlaces.Put(envelope, declared.RequestAt ?? JsonPointer.ToField("data"), JsonValue.Create(text));
        if (wrapped.Length > 0)
            JsonPlaces.Put(envelope, declared.KeyAt!, JsonValue.Create(wrapped));
        var sent = JsonPlaces.Write(envelope);
        shown?.Invoke(
            new(
                "envelope",
                sent,
                $"the encrypted body at {declared.RequestAt?.Text ?? "/data"}{(wrapped.Length > 0 ? $", its key at {declared.KeyAt!.Text}" : "")}"));
        return (Encoding.UTF8.GetBytes(sent), "application/json");
    }

    /// <summary>Opens an answer, or one line of it.</summary>
    /// <param name="keys">One's own private keys, or shared ones.</param>
    /// <param name="shown">Is told each step; null for nobody.</param>
    /// <returns>What was encrypted; null where nothing stands at the place, as in an answer in the clear.</returns>
    /// <exception cref="PayloadException">It does not open.</exception>
    public static byte[]? Decrypt(
        ReadOnlySpan<byte> answer, BodyEncryption declared, IReadOnlyList<ExchangeKey> keys, Action<PayloadStep>? shown = null)
    {
        var text = Find(answer, declared.AnswerAt);
        if (text.IsEmpty)
            return null;
        if (declared.AnswerAt is not null)
            shown?.Invoke(new("encrypted text", Encoding.UTF8.GetString(text), $"at {declared.AnswerAt.Text} of the answer"));
        byte[] plain;
        if (declared.Cipher == Ciphers.Jwe)
        {
            plain = SealedText.Decrypt(text, keys, shown);
        }
        else
        {
            Fits(declared.Cipher, Only(keys));
            var wrapped = declared.KeyAt is null ? "" : Encoding.UTF8.GetString(EnvelopeText.Find(answer, declared.KeyAt));
            plain = PlainBox.Decrypt(text, wrapped, Only(keys), WrapOf(declared), ModeOf(declared.Cipher), shown);
        }

        return declared.Base64First ? FromBase64(plain, shown) : plain;
    }

    /// <summary>The plain mode of a cipher's name.</summary>
    internal static PlainCipher ModeOf(string cipher) => cipher switch
    {
        Ciphers.Ecb => PlainCipher.Ecb,
        Ciphers.Cbc => PlainCipher.Cbc,
        Ciphers.Gcm => PlainCipher.Gcm,
        _ => throw new ArgumentOutOfRangeException(nameof(cipher), cipher, "not a plain cipher"),
    };

    /// <summary>What is encrypted, put into base64.</summary>
    internal static byte[] ToBase64(byte[] plain, Action<PayloadStep>? shown)
    {
        var text = Convert.ToBase64String(plain);
        shown?.Invoke(new("plain text in base64", text, "what is encrypted", IsSecret: true));
        return Encoding.ASCII.GetBytes(text);
    }

    private static byte[] FromBase64(byte[] opened, Action<PayloadStep>? shown)
    {
        var plain = Base64.TryAny(Encoding.UTF8.GetString(opened)) ?? throw PayloadException.Closed();
        shown?.Invoke(new("plain text", Encoding.UTF8.GetString(plain), "decoded from base64", IsSecret: true));
        return plain;
    }

    private static byte[] Members(byte[] plain, BodyEncryption declared, ExchangeKey key, Action<PayloadStep>? shown)
    {
        var body = JsonPlaces.Read(plain);
        foreach (var member in declared.Members)
        {
            if (JsonPlaces.Bytes(body, member) is not { } value)
                throw new PayloadException($"the body has nothing at {member.Text}, listed in members:");
            var (text, wrapped) = Text(value, declared, key, shown);
            JsonPlaces.Put(body, member, JsonValue.Create(text));
            if (wrapped.Length > 0)
                JsonPlaces.Put(body, declared.KeyAt!, JsonValue.Create(wrapped));
        }

        var sent = JsonPlaces.Write(body);
        shown?.Invoke(new("body", sent, $"encrypted at {string.Join(", ", declared.Members)}"));
        return Encoding.UTF8.GetBytes(sent);
    }

    private static (string Text, string Wrapped) Text(byte[] plain, BodyEncryption declared, ExchangeKey key, Action<PayloadStep>? shown)
    {
        if (declared.Base64First)
            plain = ToBase64(plain, shown);
        if (declared.Cipher != Ciphers.Jwe)
        {
            if (key.Secret is null && declared.KeyAt is null)
                throw new PayloadException(
                    $"{declared.Cipher} needs a shared key, and this is a {key.Words}; with key-at: each message has its own key");
            Fits(declared.Cipher, key);
            var box = PlainBox.Encrypt(plain, key, WrapOf(declared), ModeOf(declared.Cipher), shown);
            return (box.Data, box.WrappedKey);
        }

        var algorithm = declared.Algorithm is { } named
            ? AlgorithmNames.Key(named)!
            : key.Secret is not null ? KeyAlgorithm.Direct : KeyAlgorithm.RsaOaep256;
        return (SealedText.Encrypt(plain, key, algorithm.Value, AlgorithmNames.Content(declared.Content)!.Value, shown: shown), "");
    }

    private static KeyAlgorithm WrapOf(BodyEncryption declared) =>
        declared.Algorithm is { } named ? AlgorithmNames.Key(named)!.Value : KeyAlgorithm.RsaOaep256;

    private static ExchangeKey Only(IReadOnlyList<ExchangeKey> keys) =>
        keys is [var only] ? only : throw new PayloadException($"there are {keys.Count} keys, and key-id: names none of them");

    /// <summary>Makes sure that a shared key has the length that the cipher's name says.</summary>
    /// <exception cref="PayloadException">It has another one.</exception>
    internal static void Fits(string cipher, ExchangeKey key)
    {
        if (key.Secret is { Length: not 32 } secret)
            throw new PayloadException($"{cipher} needs a key of 256 bits, and this one has {secret.Length * 8}");
    }

    // The place of the text costs no tree, since pages may be large; a whole answer is looked at where it is.
    private static ReadOnlySpan<byte> Find(ReadOnlySpan<byte> answer, JsonPointer? at)
    {
        if (at is not null)
            return EnvelopeText.Find(answer, at);
        var whole = answer.Trim(" \r\n\t"u8);
        return whole is [(byte)'"', .., (byte)'"']
            ? EnvelopeText.Unquoted(whole)
            : whole is [(byte)'{', ..] or [(byte)'[', ..] ? [] : whole;
    }
}

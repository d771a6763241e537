using System.Globalization;
using System.Security.Cryptography;
using System.Text;

namespace Cursiva.Core.Encryption;

/// <summary>Signatures over parts of an HTTP message (RFC 9421), and digests of its content (RFC 9530).</summary>
public static class MessageSignature
{
    /// <summary>How far a signature may be older or newer than the message, for clocks that differ and answers that wait.</summary>
    public static TimeSpan Slack { get; } = TimeSpan.FromMinutes(5);

    private const string Label = "cursiva";

    /// <summary>Signs.</summary>
    /// <param name="covered">Names of fields in lower case, and derived components (section 2).</param>
    /// <param name="value">The value of a component, by its name and its parameters; null for one that the message does not have.</param>
    /// <param name="shown">Is told each step; null for nobody.</param>
    /// <returns>The values of Signature-Input and Signature.</returns>
    /// <exception cref="PayloadException">The key is none for the algorithm, or the message lacks a component.</exception>
    public static (string Input, string Signature) Sign(
        IReadOnlyList<string> covered,
        ExchangeKey key,
        string? algorithm,
        DateTimeOffset created,
        Func<string,
        string,
        string?> value,
        Action<PayloadStep>? shown = null)
    {
        algorithm ??= Usual(key);
        var items = string.Join(' ', covered.Select(name => StructuredFields.Quoted(name.ToLowerInvariant())));
        var parameters =
            $"({items});created={StructuredFields.Seconds(created)};keyid={StructuredFields.Quoted(key.Mark)};alg={StructuredFields.Quoted(algorithm)}";
        var text = Base([.. covered.Select(name => StructuredFields.Quoted(name.ToLowerInvariant()))], parameters, value);
        shown?.Invoke(new("signature base", text, "RFC 9421 section 2.5"));
        var signature = $"{Label}=:{Convert.ToBase64String(SignatureOf(key, algorithm, Encoding.UTF8.GetBytes(text)))}:";
        shown?.Invoke(new("Signature-Input", $"{Label}={parameters}", "the covered components"));
        shown?.Invoke(new("Signature", signature, $"by {algorithm} with the {key.Words}"));
        return ($"{Label}={parameters}", signature);
    }

    /// <summary>Verifies: one signature of the message must fit, and cover what is asked for.</summary>
    /// <param name="mustCover">What it must cover; the content digest is compared with the content by the caller.</param>
    /// <param name="sent">When the message was asked for: a much older signature is of another one. Null where that is not known.</param>
    /// <param name="now">The time, against which an end is compared.</param>
    /// <returns>The key that it fits.</returns>
    /// <exception cref="PayloadException">No signature fits, covers enough and is of now.</exception>
    public static ExchangeKey Verify(
        string? input,
        string? signature,
        IReadOnlyList<ExchangeKey> keys,
        IReadOnlyList<string> mustCover,
        Func<string,
        string,
        string?> value,
        DateTimeOffset? sent,
        DateTimeOffset now,
        Action<PayloadStep>? shown = null)
    {
        if (input is null || signature is null)
            throw new PayloadException($"the message has no {(input is null ? "Signature-Input" : "Signature")}");
        var signatures = StructuredFields.Dictionary(signature);
        PayloadException? last = null;
        foreach (var (label, written) in StructuredFields.Dictionary(input))
        {
            try
            {
                if (!signatures.TryGetValue(label, out var bytes))
                    throw new PayloadException($"Signature has no '{label}', which Signature-Input has");
                return Verify(written, StructuredFields.Bytes(bytes), keys, mustCover, value, sent, now, shown);
            }
            catch (PayloadException error)
            {
                // Another one may be of somebody whose key is here.
                last = error;
            }
        }

        throw last ?? new PayloadException("the message has no signature");
    }

    /// <summary>The digest of a content, as a Content-Digest field (RFC 9530 section 2).</summary>
    public static string DigestOf(ReadOnlySpan<byte> content) => $"sha-256=:{Convert.ToBase64String(SHA256.HashData(content))}:";

    /// <summary>Makes sure that a Content-Digest field is that of the content.</summary>
    /// <exception cref="PayloadException">It is not, or has no algorithm that counts.</exception>
    public static void CheckDigest(string? field, ReadOnlySpan<byte> content)
    {
        if (field is null)
            throw new PayloadException("the message has no Content-Digest");
        var known = false;
        foreach (var (algorithm, value) in StructuredFields.Dictionary(field))
        {
            byte[]? digest = algorithm switch { "sha-256" => SHA256.HashData(content), "sha-512" => SHA512.HashData(content), _ => null };
            if (digest is null)
                continue;
            known = true;
            if (!CryptographicOperations.FixedTimeEquals(digest, StructuredFields.Bytes(value)))
                throw new PayloadException($"its content does not match its Content-Digest ({algorithm}): it was changed on the way");
        }

        if (!known)
            throw new PayloadException("its Content-Digest has neither sha-256 nor sha-512");
    }

    private static ExchangeKey Verify(
        string written,
        byte[] signature,
        IReadOnlyList<ExchangeKey> keys,
        IReadOnlyList<string> mustCover,
        Func<string,
        string,
        string?> value,
        DateTimeOffset? sent,
        DateTimeOffset now,
        Action<PayloadStep>? shown)
    {
        var (items, rest) = StructuredFields.InnerList(written);
        var parameters = StructuredFields.Parameters(rest);
        foreach (var needed in mustCover.Where(needed => !items.Any(item => Names(item, needed))))
            throw new PayloadException($"the signature does not cover {needed}");
        if (items.Distinct(StringComparer.Ordinal).Count() < items.Count)
            throw new PayloadException("the signature covers a component twice");
        CheckTimes(parameters, sent, now);
        var key = ProtectedHeader.Choose(
            keys,
            parameters.GetValueOrDefault("keyid") is { } id
                && keys.Any(known => known.Id == id) ? id : keys.Count == 1 ? null : parameters.GetValueOrDefault("keyid"));
        var algorithm = parameters.GetValueOrDefault("alg") ?? Usual(key);
        var text = Base(items, written, value);
        shown?.Invoke(new("signature base", text, "RFC 9421 section 2.5"));
        if (!Fits(key, algorithm, Encoding.UTF8.GetBytes(text), signature))
            throw new PayloadException("the signature is not valid: it was made with another key, or the message was changed on the way");
        shown?.Invoke(new("signature", Convert.ToBase64String(signature), $"valid, {algorithm} with the {key.Words}"));
        return key;
    }

    private static void CheckTimes(IReadOnlyDictionary<string, string> parameters, DateTimeOffset? sent, DateTimeOffset now)
    {
        if (TimeOf(parameters, "created") is { } created && ((sent is { } asked && created < asked - Slack) || created > now + Slack))
            throw new PayloadException(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"the signature was made at {created:yyyy-MM-dd HH:mm:ss}Z, so it belongs to another message: this one was requested at {sent ?? now:yyyy-MM-dd HH:mm:ss}Z"));
        if (TimeOf(parameters, "expires") is { } end && end < now)
            throw new PayloadException(string.Create(CultureInfo.InvariantCulture, $"the signature expired at {end:yyyy-MM-dd HH:mm:ss}Z"));
    }

    private static DateTimeOffset? TimeOf(IReadOnlyDictionary<string, string> parameters, string name) =>
        long.TryParse(
            parameters.GetValueOrDefault(name),
            NumberStyles.None,
            CultureInfo.InvariantCulture,
            out var seconds) && seconds < 100_000_000_000
            ? DateTimeOffset.FromUnixTimeSeconds(seconds)
            : null;

    private static bool Names(string item, string needed)
    {
        var (name, parameters) = StructuredFields.Item(item);
        var (wanted, with) = needed.IndexOf(';', StringComparison.Ordinal) is > 0 and var at ? (needed[..at], needed[at..]) : (needed, "");
        return name.Equals(wanted, StringComparison.OrdinalIgnoreCase) && parameters == with;
    }

    private static string Base(IReadOnlyList<string> items, string parameters, Func<string, string, string?> value)
    {
        var text = new StringBuilder();
        foreach (var item in items)
        {
            var (name, with) = StructuredFields.Item(item);
            text.Append(item)
                .Append(": ")
                .Append(value(name, with) ?? throw new PayloadException($"the message has no {item}, which the signature covers"))
                .Append(
                '\n');
        }

        return text.Append("\"@signature-params\": ").Append(parameters).ToString();
    }

    // RFC 9421 section 3.3.
    private static string Usual(ExchangeKey key) =>
        key.Rsa is not null
            ? "rsa-pss-sha512"
            : key.Curve is { } curve ? curve.KeySize == 384 ? "ecdsa-p384-sha384" : "ecdsa-p256-sha256" : "hmac-sha256";

    private static byte[] SignatureOf(ExchangeKey key, string algorithm, byte[] data)
    {
        Check(key, algorithm);
        if (!key.IsPrivate)
            throw new PayloadException($"signing needs a private key, and this is a {key.Words}");
        return algorithm switch
        {
            "rsa-pss-sha512" => key.Rsa!.SignData(data, HashAlgorithmName.SHA512, RSASignaturePadding.Pss),
            "rsa-v1_5-sha256" => key.Rsa!.SignData(data, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1),
            "hmac-sha256" => HMACSHA256.HashData(key.Secret!, data),
            _ => key.Curve!.SignData(data, HashOf(algorithm), DSASignatureFormat.IeeeP1363FixedFieldConcatenation),
        };
    }

    private static bool Fits(ExchangeKey key, string algorithm, byte[] data, byte[] signature)
    {
        Check(key, algorithm);
        return algorithm switch
        {
            "rsa-pss-sha512" => key.Rsa!.VerifyData(data, signature, HashAlgorithmName.SHA512, RSASignaturePadding.Pss),
            "rsa-v1_5-sha256" => key.Rsa!.VerifyData(data, signature, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1),
            "hmac-sha256" => CryptographicOperations.FixedTimeEquals(signature, HMACSHA256.HashData(key.Secret!, data)),
            _ => key.Curve!.VerifyData(data, signature, HashOf(algorithm), DSASignatureFormat.IeeeP1363FixedFieldConcatenation),
        };
    }

    private static HashAlgorithmName HashOf(string algorithm) =>
        algorithm == "ecdsa-p384-sha384" ? HashAlgorithmName.SHA384 : HashAlgorithmName.SHA256;

    private static void Check(ExchangeKey key, string algorithm)
    {
        if (!Jobs.Ciphers.OfSignedMessages.Contains(algorithm))
            throw new PayloadException($"alg is '{algorithm}', not one of {string.Join(", ", Jobs.Ciphers.OfSignedMessages)}");
        var fits = algorithm switch
        {
            "rsa-pss-sha512" or "rsa-v1_5-sha256" => key.Rsa is not null,
            "hmac-sha256" => key.Secret is not null,
            _ => key.Curve?.KeySize == (algorithm == "ecdsa-p384-sha384" ? 384 : 256),
        };
        if (!fits)
            throw new PayloadException($"{algorithm} is not for a {key.Words}");
    }
}

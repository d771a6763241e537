using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.Core.Encryption;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Identity;

/// <summary>Encrypts what of a sign-in is encrypted, and opens the session key that it brings.</summary>
/// <param name="shown">Is told each step; null for nobody.</param>
internal sealed class SignInSealing(
    DeclaredIdentity identity, KeyRing keys, Redactor redactor, TimeProvider clock, Action<PayloadStep>? shown)
{
    private const double EndOfSeconds = 1e9;

    private SignInEncryption Declared => identity.Encryption!;

    /// <summary>Encrypts a request, under a fresh key where the job wants one.</summary>
    /// <exception cref="RefusedException">The public key cannot be used.</exception>
    public async Task<SealedSignIn> SealAsync(IReadOnlyList<KeyValuePair<string, string>> parameters, CancellationToken cancel)
    {
        var key = await keys.OnlyAsync(Declared.Key, KeyUse.Encrypt, cancel);
        var fresh = Declared.SessionKey is { } wanted ? RandomNumberGenerator.GetBytes(wanted.Bytes) : null;
        try
        {
            return Seal(parameters, key, fresh);
        }
        catch (PayloadException error)
        {
            throw Refused(
                $"the sign-in of identity '{identity.Name}' could not be encrypted: {error.Message}",
                "compare key:, algorithm: and members: with the other side's documentation",
                error,
                "public key");
        }
    }

    /// <summary>The answer as if it had come in the clear, and the session key.</summary>
    /// <exception cref="RefusedException">The answer or its session key does not open.</exception>
    public (TokenAnswer Answer, SessionKey? Key) Open(TokenAnswer answer, byte[]? fresh)
    {
        if (Declared.SessionKey is not { } places || fresh is null || !answer.IsJson)
            return (answer, null);
        if (Declared.AnswerAt is { Segments.Count: > 0 } sealedAt)
            answer = Opened(answer, sealedAt, places, fresh);
        var key = places.AnswerAt is { } at ? Unwrap(answer, at, places, fresh) : fresh;
        redactor.Remember(Convert.ToBase64String(key));
        redactor.Remember(Base64UrlText.Write(key));
        shown?.Invoke(
            new("session key", Convert.ToBase64String(key), $"{key.Length * 8} bits, for the bodies of later requests", IsSecret: true));
        return (answer, new SessionKey(key, places.EndsAt is { } end ? EndOf(answer, end) : null));
    }

    /// <summary>An answer that is an encrypted text as a whole.</summary>
    /// <exception cref="RefusedException">It does not open, or holds no JSON.</exception>
    public TokenAnswer OpenWhole(ReadOnlySpan<byte> text, byte[] fresh) =>
        Parsed(Unwrap(Encoding.UTF8.GetString(text).Trim().Trim('"'), Declared.SessionKey!, fresh, "the answer"), "the answer");

    /// <summary>A refusal of an encrypted sign-in: the other side may hold another key than the job names.</summary>
    public static Refusal Hinted(Refusal refusal, DeclaredIdentity identity) =>
        identity.Encryption is not { } declared ? refusal : refusal with
        {
            Step = "public key",
            Cause =
            $"the sign-in was encrypted under the key of {declared.Key}: if that key belongs to another environment, or algorithm: is wrong, the other side cannot decrypt it",
            Others = refusal.Cause is { } usual ? [usual, .. refusal.Others] : refusal.Others,
            NextStep =
            $"compare the key of {declared.Key} with the one that the other side publishes for this address; cursiva token get JOB {identity.Name} shows each step",
        };

    /// <summary>
    /// The time at a place of an answer: seconds from now, seconds since 1970, or a time, which is UTC without an offset; null where there
    /// is none.
    /// </summary>
    public static DateTimeOffset? TimeAt(TokenAnswer answer, JsonPointer place, DateTimeOffset now)
    {
        var text = answer.At(place);
        if (double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var seconds))
            return seconds is <= 0 or > 1e14
                ? null
                : seconds < EndOfSeconds ? now.AddSeconds(seconds) : DateTimeOffset.FromUnixTimeMilliseconds(
                (long)(seconds < 1e11 ? seconds * 1000 : seconds));
        return DateTimeOffset.TryParse(
            text, CultureInfo.InvariantCulture, DateTimeStyles.AssumeUniversal | DateTimeStyles.AdjustToUniversal, out var time)
            ? time
            : null;
    }

    private SealedSignIn Seal(IReadOnlyList<KeyValuePair<string, string>> parameters, ExchangeKey key, byte[]? fresh)
    {
        var body = new JsonObject();
        foreach (var (name, value) in parameters)
            body[name] = value;
        if (fresh is not null)
        {
            redactor.Remember(Convert.ToBase64String(fresh));
            JsonPlaces.Put(body, Declared.SessionKey!.SendAt, JsonValue.Create(Convert.ToBase64String(fresh)));
        }

        shown?.Invoke(new("sign-in body", JsonPlaces.Write(body), "before anything is encrypted", IsSecret: true));
        if (fresh is not null)
            shown?.Invoke(
                new(
                    "fresh key",
                    Convert.ToBase64String(fresh),
                    $"{fresh.Length * 8} random bits, new for each sign-in, at {Declared.SessionKey!.SendAt.Text}",
                    IsSecret: true));
        if (Declared.Members.Count == 0)
            return Whole(body, key, fresh);
        foreach (var member in Declared.Members)
        {
            var isKey = fresh is not null && member.Text == Declared.SessionKey!.SendAt.Text;
            var plain = isKey && !Declared.SessionKey!.SendsText ? fresh : JsonPlaces.Bytes(body, member);
            var text = Under(
                key, plain ?? throw new PayloadException($"the sign-in has nothing at {member.Text}, listed in members:"), member.Text);
            JsonPlaces.Put(body, member, JsonValue.Create(text));
        }

        shown?.Invoke(new("body", JsonPlaces.Write(body), $"as sent, encrypted at {string.Join(", ", Declared.Members)}"));
        return body.All(member => member.Value is JsonValue)
            ? new SealedSignIn(
                [.. body.Select(member => KeyValuePair.Create(member.Key, member.Value!.GetValue<string>()))], null, "", fresh)
            : new SealedSignIn(null, Encoding.UTF8.GetBytes(JsonPlaces.Write(body)), "application/json", fresh);
    }

    private SealedSignIn Whole(JsonObject body, ExchangeKey key, byte[]? fresh)
    {
        var text = Under(key, Encoding.UTF8.GetBytes(JsonPlaces.Write(body)), "the body");
        if (Declared.At is not { } at)
            return new SealedSignIn(
                null, Encoding.ASCII.GetBytes(text), Declared.Content is null ? "text/plain" : SealedBody.JoseType, fresh);
        var envelope = new JsonObject();
        JsonPlaces.Put(envelope, at, JsonValue.Create(text));
        shown?.Invoke(new("envelope", JsonPlaces.Write(envelope), $"as sent, with the encrypted body at {at.Text}"));
        return new SealedSignIn(null, Encoding.UTF8.GetBytes(JsonPlaces.Write(envelope)), "application/json", fresh);
    }

    private string Under(ExchangeKey key, byte[] plain, string what)
    {
        if (Declared.Base64First)
            plain = SealedBody.ToBase64(plain, shown);
        var algorithm = AlgorithmNames.Key(Declared.Algorithm)!.Value;
        if (Declared.Content is { } content)
            return SealedText.Encrypt(plain, key, algorithm, AlgorithmNames.Content(content)!.Value, shown: shown);
        var text = Convert.ToBase64String(KeyWrapping.Under(key, algorithm, plain));
        shown?.Invoke(new($"{what} encrypted", text, $"{plain.Length} bytes under the {key.Words}, with {Declared.Algorithm}, base64"));
        return text;
    }

    private TokenAnswer Opened(TokenAnswer answer, JsonPointer at, SessionKeyPlaces places, byte[] fresh)
    {
        if (answer.At(at) is not { } text)
            return answer;
        return Parsed(Unwrap(text, places, fresh, $"the part of the answer at {at.Text}"), $"what the answer has at {at.Text}");
    }

    private TokenAnswer Parsed(byte[] plain, string what)
    {
        try
        {
            using var document = JsonDocument.Parse(plain);
            return new TokenAnswer(document.RootElement.ValueKind == JsonValueKind.Object ? document.RootElement.Clone() : null);
        }
        catch (JsonException error)
        {
            throw Refused(
                $"sign-in of identity '{identity.Name}' failed: {what} can be decrypted, but is not JSON",
                "compare answer-at: of encryption: with the other side's documentation",
                error);
        }
    }

    private byte[] Unwrap(TokenAnswer answer, JsonPointer at, SessionKeyPlaces places, byte[] fresh)
    {
        var text = answer.At(at) ?? throw Refused(
            $"sign-in of identity '{identity.Name}' failed: its answer has no session key at {at.Text}",
            $"compare answer-at: of session-key: with the answer, which has {string.Join(", ", answer.MemberNames)}");
        shown?.Invoke(new("wrapped session key", text, $"at {at.Text} of the answer"));
        var opened = Unwrap(text, places, fresh, $"the session key at {at.Text} of the answer");

        // Some put the key into base64 before they wrap it.
        var key = opened.Length is 16 or 24 or 32 or 48 or 64 && Base64.TryAny(opened) is not { Length: 16 or 24 or 32 }
            ? opened
            : Base64.TryAny(opened) ?? opened;
        return key.Length is 16 or 24 or 32 or 48 or 64 ? key
            : throw Refused(
                $"sign-in of identity '{identity.Name}' failed: the session key at {at.Text} of the answer has {key.Length * 8} bits, but a key must have 128, 192, 256, 384 or 512",
                "compare answer-at: and wrapped: of session-key: with the other side's documentation");
    }

    private byte[] Unwrap(string text, SessionKeyPlaces places, byte[] fresh, string what)
    {
        using var key = new ExchangeKey { Secret = [.. fresh], IsPrivate = true };
        try
        {
            if (places.Wrapped == Ciphers.Jwe)
                return SealedText.Decrypt(text, [key], shown);
            SealedBody.Fits(places.Wrapped, key);
            return PlainBox.Decrypt(Encoding.UTF8.GetBytes(text), "", key, default, SealedBody.ModeOf(places.Wrapped), shown);
        }
        catch (PayloadException error)
        {
            throw Refused(
                $"sign-in of identity '{identity.Name}' failed at {what}: {error.Message}",
                $"compare bytes:, send-as: and wrapped: of session-key: with the other side's documentation; cursiva token get JOB {identity.Name} shows each step",
                error);
        }
    }

    private DateTimeOffset? EndOf(TokenAnswer answer, JsonPointer place) => TimeAt(answer, place, clock.GetUtcNow())
        ?? throw Refused(
            $"sign-in of identity '{identity.Name}' failed: its answer has no time at {place.Text}, where the session key's expiry should be",
            "compare ends-at: of session-key: with the answer; without it the key expires with the token");

    private static RefusedException Refused(string what, string next, Exception? inner = null, string step = "session key") =>
        new(new Refusal(Outcome.SignInRefused, what) { NextStep = next, Step = step }, inner);
}

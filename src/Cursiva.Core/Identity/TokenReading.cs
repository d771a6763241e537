using System.Globalization;
using System.Text.Json;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Identity;

/// <summary>A token, explained for people.</summary>
/// <param name="Lines">Claim by claim.</param>
/// <param name="Belongs">Whether it is a person's token or an application's, in words.</param>
/// <param name="Signature">What is known of its signature, in words.</param>
/// <param name="Holds">Whether the signature and everything that was compared hold, and the token is good now.</param>
/// <param name="Compared">What was compared with a job; empty when no job was given.</param>
/// <param name="Beyond">Permissions that the token has beyond what the job declares.</param>
public sealed record TokenReading(
    IReadOnlyList<TokenReading.ClaimLine> Lines,
    string Belongs,
    string Signature,
    string Validity,
    bool Holds,
    IReadOnlyList<TokenExpectation> Compared,
    IReadOnlyList<string> Beyond)
{
    /// <summary>One claim.</summary>
    public sealed record ClaimLine(string Part, string Claim, string Value, string Meaning);

    /// <summary>Explains a token.</summary>
    /// <param name="signature">Whether the signature holds; null when it could not be checked.</param>
    /// <param name="signatureSays">How it was checked, or why it could not be.</param>
    /// <param name="identity">Whom to compare with, or null.</param>
    /// <param name="zone">The zone that times are told in.</param>
    public static TokenReading Of(
        Jwt token,
        bool? signature,
        string signatureSays,
        DeclaredIdentity? identity,
        string? grantedScope,
        TimeZoneInfo zone,
        DateTimeOffset now)
    {
        if (TokenSignature.Objection(token) is { } objection)
            (signature, signatureSays) = (false, objection);
        List<ClaimLine> lines = [.. Part("header", token.Header, now, zone), .. Part("claims", token.Claims, now, zone)];
        var compared = identity is null ? [] : TokenExpectation.Compare(identity, token, grantedScope);
        var beyond = identity is null ? [] : TokenExpectation.Beyond(identity, token, grantedScope);
        var isGood = (token.Time("exp") is not { } end || end > now) && (token.Time("nbf") is not { } start || start <= now);
        var belongs = TokenNature.Of(token) switch
        {
            true => "a person's token: it can do no more than the person may",
            false => "an application's token, without a person",
            null => "it does not say whether it is a person's token or an application's",
        };
        return new TokenReading(
            lines,
            belongs,
            signatureSays,
            ValidityOf(token, now),
            isGood && signature != false && compared.All(line => line.Holds),
            compared,
            beyond);
    }

    private static string ValidityOf(Jwt token, DateTimeOffset now)
    {
        if (token.Time("exp") is { } end && end <= now)
            return $"it expired {Durations.ForPeople(now - end)} ago";
        if (token.Time("nbf") is { } start && start > now)
            return $"it becomes valid in {Durations.ForPeople(start - now)}";
        return token.Time("exp") is { } until
            ? $"it is valid for another {Durations.ForPeople(until - now)}"
            : "it does not say when it expires";
    }

    private static IEnumerable<ClaimLine> Part(string part, JsonElement json, DateTimeOffset now, TimeZoneInfo zone)
    {
        foreach (var field in json.EnumerateObject())
        {
            var meaning = part == "claims" ? ClaimWords.Of(field.Name) : "";
            var value = field.Value.ValueKind == JsonValueKind.String ? field.Value.GetString()! : field.Value.GetRawText();
            if (part == "claims"
                && ClaimWords.IsTime(field.Name)
                && field.Value.ValueKind == JsonValueKind.Number
                && field.Value.TryGetDouble(out var seconds)
                && seconds is >= 0 and < 253402300800)
                value = Time(DateTimeOffset.UnixEpoch.AddSeconds(seconds), now, zone);
            yield return new ClaimLine(part, field.Name, value, meaning);
        }
    }

    private static string Time(DateTimeOffset time, DateTimeOffset now, TimeZoneInfo zone)
    {
        var local = TimeZoneInfo.ConvertTime(time, zone).ToString("yyyy-MM-dd HH:mm:ss zzz", CultureInfo.InvariantCulture);
        return time >= now ? $"{local}, in {Durations.ForPeople(time - now)}" : $"{local}, {Durations.ForPeople(now - time)} ago";
    }
}

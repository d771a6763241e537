using Cursiva.Core.Jobs;

namespace Cursiva.Core.Checks;

/// <summary>How an exchange is encrypted and signed, for people.</summary>
internal static class ExchangeWords
{
    /// <summary>What of a sign-in is encrypted; null for nothing.</summary>
    public static string? Of(SignInEncryption? encryption)
    {
        if (encryption is null)
            return null;
        var what = encryption.Members.Count > 0 ? string.Join(" and ", encryption.Members) : "its body";
        var session = encryption.SessionKey is { } key ? $"; it agrees on a session key of {key.Bytes * 8} bits" : "";
        return $"{what} encrypted with {encryption.Algorithm}{(encryption.Content is { } content ? $" and {content}" : "")} under {encryption.Key}{session}";
    }

    /// <summary>How bodies are encrypted; null for not at all.</summary>
    public static string? Of(BodyEncryption? encryption) => encryption is null ? null
        : encryption.Cipher == Ciphers.None ? "bodies in the clear"
        : $"bodies encrypted with {encryption.Cipher} under {encryption.Key?.ToString() ?? "the session key"}";

    /// <summary>What is signed and verified, each as a few words.</summary>
    public static IEnumerable<string> Of(Signatures? signatures)
    {
        if (signatures?.Requests is { } requests)
            yield return $"requests signed ({requests.Form})";
        if (signatures?.Answers is { } answers)
            yield return $"answers verified ({answers.Form}) under {answers.Key}{Told(answers)}";
        if (signatures?.Rows is { } rows)
            yield return $"rows verified ({rows.Form}) under {rows.Key}{Told(rows)}";
    }

    private static string Told(SignatureCheck check) => check.MayBeUnverified ? ", unverified data is reported and kept" : "";
}

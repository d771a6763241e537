namespace Cursiva.Core.Refusals;

/// <summary>The facts that a diagnosis rests on.</summary>
/// <param name="Status">HTTP status, or 0 without an answer.</param>
/// <param name="Error">The error code in the answer (RFC 6749 section 5.2, or <c>error</c> in a challenge).</param>
public sealed record Facts(Desk Desk, Trouble Trouble, int Status = 0, string? Error = null)
{
    /// <summary>Everything that the answer says in words: description, challenge, body.</summary>
    public string Words { get; init; } = "";

    /// <summary>What else is known.</summary>
    public Circumstances Circumstances { get; init; }

    /// <summary>Details of the circumstances, for the message: where the white space is, until when the certificate was valid.</summary>
    public IReadOnlyList<string> Details { get; init; } = [];

    /// <summary>The words for a redirect: where it points to, and whether that is the same host over https.</summary>
    public static string RedirectWords(Uri from, Uri? to) =>
        $"{to}{(from.Scheme == "http" && to is { IsAbsoluteUri: true, Scheme: "https" } && to.Host == from.Host ? " " + TransportRefusals.HttpsInstead : "")}";
}

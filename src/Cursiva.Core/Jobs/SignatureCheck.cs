namespace Cursiva.Core.Jobs;

/// <summary>How an answer, or each of its rows, is verified.</summary>
/// <param name="Form">One of <see cref="SignatureForms.OfAnswers"/>.</param>
public sealed record SignatureCheck(string Form, KeySource Key)
{
    /// <summary>Where the signed text is; null for the whole answer, or a header.</summary>
    public JsonPointer? At { get; init; }

    /// <summary>The header with the detached signature; null where it stands at <see cref="At"/>.</summary>
    public string? Header { get; init; }

    /// <summary>Where the payload of a detached signature is; null for the whole answer.</summary>
    public JsonPointer? PayloadAt { get; init; }

    /// <summary>The issuer that the signer's certificate must have; null for any.</summary>
    public string? Issuer { get; init; }

    /// <summary>What a signature of an HTTP message must cover at least.</summary>
    public IReadOnlyList<string> Covers { get; init; } = [];

    /// <summary>Whether what does not verify is told and kept; otherwise the run stops.</summary>
    public bool MayBeUnverified { get; init; }

    /// <summary>The member of a row that the verified payload becomes; null where it takes the place of the row.</summary>
    public string? JoinsAs { get; init; }

    /// <summary>The member of a row that says which key verified it; null for none.</summary>
    public string? By { get; init; }
}

namespace Cursiva.Core.Jobs;

/// <summary>What of an exchange is signed.</summary>
/// <param name="Requests">How requests are signed; null for not at all.</param>
/// <param name="Answers">How answers are verified; null for not at all.</param>
/// <param name="Rows">How each row is verified; null for not at all.</param>
public sealed record Signatures(RequestSignature? Requests, SignatureCheck? Answers, SignatureCheck? Rows)
{
    /// <summary>What is said here goes before what is said of something wider.</summary>
    public Signatures Over(Signatures? wider) => new(Requests ?? wider?.Requests, Answers ?? wider?.Answers, Rows);
}

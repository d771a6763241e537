namespace Cursiva.StandIn.Customs;

/// <summary>An answer that was encrypted and signed before, so that a benchmark measures who opens it.</summary>
public sealed record PreparedAnswer(byte[] Body, string Type, IReadOnlyList<KeyValuePair<string, string>> Headers)
{
    /// <summary>The headers that belong to the body.</summary>
    public static IReadOnlyList<string> Signed { get; } = ["Content-Digest", "Signature-Input", "Signature"];
}

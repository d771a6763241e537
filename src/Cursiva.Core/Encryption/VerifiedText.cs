namespace Cursiva.Core.Encryption;

/// <summary>What a signature proves.</summary>
/// <param name="Payload">What was signed.</param>
/// <param name="Header">The protected header, as JSON.</param>
/// <param name="By">The key that the signature fits.</param>
public sealed record VerifiedText(byte[] Payload, string Header, ExchangeKey By);

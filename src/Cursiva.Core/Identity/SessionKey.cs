namespace Cursiva.Core.Identity;

/// <summary>The key that a sign-in agreed on, for the bodies of further requests.</summary>
/// <param name="Bytes">The key.</param>
/// <param name="Ends">When it ends; null with the token.</param>
public sealed record SessionKey(byte[] Bytes, DateTimeOffset? Ends);

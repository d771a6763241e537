namespace Cursiva.Core.Encryption;

/// <summary>How something was encrypted that does not open.</summary>
/// <param name="Plain">What it holds.</param>
/// <param name="Key">What is wrong with the key; null for nothing.</param>
/// <param name="Mode">The mode, where it is another one; null for the right one.</param>
/// <param name="Padding">What is wrong with the padding; null for nothing.</param>
internal sealed record CipherFind(byte[] Plain, string? Key, string? Mode, string? Padding);

namespace Cursiva.Core.Encryption;

/// <summary>One step of making or opening a payload, as it can be shown.</summary>
/// <param name="Name">What it is: plain text, header, wrapped key and the like.</param>
/// <param name="Value">The value: text as it is, bytes in base64url.</param>
/// <param name="Note">What was done, with the standard's name for it.</param>
/// <param name="IsSecret">Whether it must not be shown unless somebody asks for it: keys, and what was opened.</param>
public sealed record PayloadStep(string Name, string Value, string Note, bool IsSecret = false);

namespace Cursiva.Core.Encryption;

/// <summary>One step at which one's own output is compared with what is right.</summary>
/// <param name="Name">The step: envelope, text, cipher text, padding, plain text and the like.</param>
/// <param name="Agrees">Whether it is as it should be.</param>
/// <param name="Says">What was found, in plain words.</param>
public sealed record ComparedStep(string Name, bool Agrees, string Says);

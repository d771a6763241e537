namespace Cursiva.Core.Jobs;

/// <summary>A value of the job with its placeholders filled in.</summary>
/// <param name="Text">The text; of a source, the source as it is written.</param>
/// <param name="Source">Where the secret is; null for a text, whatever the text looks like.</param>
public sealed record FilledValue(string Text, SecretSource? Source);

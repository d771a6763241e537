namespace Cursiva.Core.Jobs;

/// <summary>One cheap request that shows whether an API lets the identity in.</summary>
/// <param name="Get">The path, an RFC 6570 template.</param>
/// <param name="Require">What the answer must have, by pointer; <c>*</c> stands for anything.</param>
public sealed record Probe(string Get, IReadOnlyList<KeyValuePair<JsonPointer, string>> Require)
{
    /// <summary>The required value that any value meets.</summary>
    public const string Anything = "*";
}

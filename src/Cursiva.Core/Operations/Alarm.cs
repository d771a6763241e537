namespace Cursiva.Core.Operations;

/// <summary>What has come up since it was told last, and what is over.</summary>
/// <param name="Number">Tells it from others of the same job, from 1.</param>
/// <param name="Words">What is told.</param>
/// <param name="Begun">The conditions that are new, by their keys.</param>
/// <param name="Over">The keys of those that are over.</param>
public sealed record Alarm(int Number, string Words, IReadOnlyList<KeyValuePair<string, string>> Begun, IReadOnlyList<string> Over);

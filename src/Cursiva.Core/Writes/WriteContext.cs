using System.Collections.Concurrent;
using Cursiva.Core.Apis;
using Cursiva.Core.Encryption;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Writes;

/// <summary>What the items of a write share.</summary>
/// <param name="Job">The job's name.</param>
/// <param name="Inputs">The names of the job's inputs.</param>
/// <param name="InFlight">Lets so many requests be on their way at once.</param>
internal sealed record WriteContext(
    string Job,
    IReadOnlySet<string> Inputs,
    Write Write,
    ItemBook Book,
    SignInServices Services,
    DocumentSchemas Schemas,
    SemaphoreSlim InFlight)
{
    /// <summary>What is said of an item that needed no change.</summary>
    public const string AsItWas = "unchanged";

    /// <summary>What looks brought that are the same for every item, by what was asked.</summary>
    public ConcurrentDictionary<(ApiClient Client, string Step), Task<(byte[] Thing, string? Etag)?>> Shared { get; } = new();

    /// <summary>The placeholders that any step fills in.</summary>
    public IReadOnlySet<string> Names { get; } = Bare(Write.Steps.Concat(Write.Remove));

    /// <summary>The placeholders that the steps of <c>remove:</c> fill in: they are kept with an item.</summary>
    public IReadOnlySet<string> KeptNames { get; } = Bare(Write.Remove);

    private static HashSet<string> Bare(IEnumerable<WriteStep> steps) =>
        steps.SelectMany(step => step.Names).Select(name => ValueEscape.Split(name).Name).ToHashSet(StringComparer.Ordinal);
}

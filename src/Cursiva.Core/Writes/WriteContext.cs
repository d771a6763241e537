using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Writes;

/// <summary>What the items of a write share.</summary>
/// <param name="Job">The job's name.</param>
/// <param name="InFlight">Lets so many requests be on their way at once.</param>
internal sealed record WriteContext(string Job, Write Write, ItemBook Book, SignInServices Services, BodySchemas Schemas, SemaphoreSlim InFlight)
{
    /// <summary>What is said of an item that needed no change.</summary>
    public const string AsItWas = "as it was";

    /// <summary>The placeholders that any step fills in.</summary>
    public IReadOnlySet<string> Names { get; } = Bare(Write.Steps.Concat(Write.Remove));

    /// <summary>The placeholders that the steps of <c>remove:</c> fill in: they are kept with an item.</summary>
    public IReadOnlySet<string> KeptNames { get; } = Bare(Write.Remove);

    private static HashSet<string> Bare(IEnumerable<WriteStep> steps) => steps.SelectMany(step => step.Names).Select(name => ValueEscape.Split(name).Name).ToHashSet(StringComparer.Ordinal);
}

using Cursiva.Core.Jobs;

namespace Cursiva.Core.Checks;

/// <summary>Another way to sign in, as the standards allow it.</summary>
/// <param name="Identity">The identity with the changes.</param>
/// <param name="Changes">What would have to be changed in the job, a key and its value each; the fewer, the earlier it is tried.</param>
public sealed record AccessTrial(DeclaredIdentity Identity, IReadOnlyList<string> Changes)
{
    /// <summary>The media types that the API is asked for instead of the usual; null for those.</summary>
    public string? Accept { get; init; }

    /// <summary>The changes as one text.</summary>
    public override string ToString() => string.Join(" and ", Changes);
}

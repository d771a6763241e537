using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>
/// A way to sign in, as a job declares it. The class that asks by a grant declares it, too: see <see cref="DeclaredGrants"/>.
/// </summary>
public abstract class Grant
{
    /// <summary>The value of <c>grant:</c>; those of the standards are spelt as they are registered.</summary>
    public required string Value { get; init; }

    /// <summary>Whether an access token is asked for at all.</summary>
    public required bool SignsIn { get; init; }

    /// <summary>Whether runs live on a refresh token that is kept.</summary>
    public required bool Refreshes { get; init; }

    /// <summary>The keys of an identity without which it cannot do.</summary>
    internal Func<IReadOnlyList<Key>> Needs { get; init; } = () => [];

    /// <summary>Whether the client has to prove who it is, by a secret or a key.</summary>
    public bool NeedsProof { get; init; }

    /// <summary>Whether its key signs an assertion that is the grant itself, and not a proof of the client.</summary>
    public bool AssertsItself { get; init; }
}

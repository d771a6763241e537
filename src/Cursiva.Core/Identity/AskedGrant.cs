using Cursiva.Core.Jobs;

namespace Cursiva.Core.Identity;

/// <summary>
/// A grant as it is declared, and how it is asked for. Each class in the folder Grants says in its <c>Declared</c> which it is; the build
/// enters that into <see cref="DeclaredGrants"/>, and does not compile without it.
/// </summary>
internal sealed class AskedGrant : Grant
{
    /// <summary>Asks the token endpoint.</summary>
    public Func<GrantParts, IGrant> Ask { get; init; } =
        parts => throw new InvalidOperationException($"{parts.Identity.Grant} uses no token endpoint");

    /// <summary>The tokens of an identity; null where requests show none.</summary>
    public Func<DeclaredIdentity, SignInServices, ITokens?> TokensOf { get; init; } = (identity, services) => new TokenSource(
        identity, services);
}

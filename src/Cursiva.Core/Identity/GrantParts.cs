using Cursiva.Core.Jobs;

namespace Cursiva.Core.Identity;

/// <summary>What a grant is asked with.</summary>
/// <param name="RefreshTokens">The refresh token that is kept; null where the grant lives on none.</param>
internal sealed record GrantParts(DeclaredIdentity Identity, TokenEndpoint Endpoint, SignInServices Services, RefreshTokens? RefreshTokens);

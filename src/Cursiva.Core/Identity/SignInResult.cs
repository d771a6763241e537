namespace Cursiva.Core.Identity;

/// <summary>What came of a person's sign-in.</summary>
/// <param name="KeptAs">The name that the refresh token is kept under; null when none came.</param>
/// <param name="Asked">The scopes that were asked for.</param>
/// <param name="Granted">The scopes that were granted.</param>
/// <param name="Until">Until when the access token is used, where nothing can renew it; null otherwise.</param>
public sealed record SignInResult(string? KeptAs, IReadOnlyList<string> Asked, IReadOnlyList<string> Granted, DateTimeOffset? Until)
{
    /// <summary>Scopes that were asked for and not granted.</summary>
    public IReadOnlyList<string> Missing => [.. Asked.Except(Granted)];
}

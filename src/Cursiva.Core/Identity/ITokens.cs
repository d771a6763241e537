namespace Cursiva.Core.Identity;

/// <summary>Gives the access token that a request carries.</summary>
public interface ITokens
{
    /// <summary>A token that is good for now.</summary>
    /// <exception cref="Refusals.RefusedException">The sign-in was refused.</exception>
    Task<AccessToken> GetAsync(CancellationToken cancel);

    /// <summary>Whether a token is still good, so that nobody has to be asked for another one.</summary>
    bool IsGood(AccessToken token);

    /// <summary>Says that the API refused a token: the next one is fetched again.</summary>
    void Refused(AccessToken token);
}

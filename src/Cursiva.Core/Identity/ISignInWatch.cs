using Cursiva.Core.Http;

namespace Cursiva.Core.Identity;

/// <summary>Is told of sign-ins.</summary>
public interface ISignInWatch : IWarningWatch
{
    /// <summary>An identity signed in.</summary>
    /// <param name="lifetime">How long the token is good for.</param>
    void SignedIn(string identity, TimeSpan lifetime);

}

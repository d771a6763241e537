namespace Cursiva.Core.Identity;

/// <summary>Is told of sign-ins.</summary>
public interface ISignInWatch
{
    /// <summary>An identity signed in.</summary>
    /// <param name="lifetime">How long the token is good for.</param>
    void SignedIn(string identity, TimeSpan lifetime);

    /// <summary>Something a person should know of a sign-in, which stops nothing.</summary>
    void Warned(string what);
}

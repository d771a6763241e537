namespace Cursiva.Core.Refusals;

/// <summary>Who refused.</summary>
public enum Desk
{
    /// <summary>The authorization server's token endpoint.</summary>
    SignIn,

    /// <summary>The API itself.</summary>
    Api,
}

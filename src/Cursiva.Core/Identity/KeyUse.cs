namespace Cursiva.Core.Identity;

/// <summary>What a key of an exchange is used for.</summary>
public enum KeyUse
{
    /// <summary>To encrypt what the other side opens.</summary>
    Encrypt,

    /// <summary>To open what the other side encrypted.</summary>
    Open,

    /// <summary>To sign.</summary>
    Sign,

    /// <summary>To verify what the other side signed.</summary>
    Verify,
}

namespace Cursiva.Core.Encryption;

/// <summary>The modes of AES that authorities used before there was JWE; padding is PKCS #7 where there is any.</summary>
public enum PlainCipher
{
    /// <summary>Every block by itself: equal blocks stay equal. For old authorities alone.</summary>
    Ecb,

    /// <summary>Chained; the vector stands before the cipher text.</summary>
    Cbc,

    /// <summary>Counted and proven; the vector stands before the cipher text, and the tag after it.</summary>
    Gcm,
}

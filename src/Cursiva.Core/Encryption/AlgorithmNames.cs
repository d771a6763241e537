namespace Cursiva.Core.Encryption;

/// <summary>The registered names of algorithms (RFC 7518).</summary>
public static class AlgorithmNames
{
    /// <summary>Every name of a way to hand over a key.</summary>
    public static IReadOnlyList<string> Keys { get; } = [.. Enum.GetValues<KeyAlgorithm>().Select(Of)];

    /// <summary>Every name of a way to encrypt content.</summary>
    public static IReadOnlyList<string> Contents { get; } = [.. Enum.GetValues<ContentAlgorithm>().Select(Of)];

    /// <summary>The registered name.</summary>
    public static string Of(KeyAlgorithm algorithm) => algorithm switch
    {
        KeyAlgorithm.Rsa15 => "RSA1_5",
        KeyAlgorithm.RsaOaep => "RSA-OAEP",
        KeyAlgorithm.RsaOaep256 => "RSA-OAEP-256",
        KeyAlgorithm.A128Kw => "A128KW",
        KeyAlgorithm.A256Kw => "A256KW",
        KeyAlgorithm.Direct => "dir",
    };

    /// <summary>The registered name.</summary>
    public static string Of(ContentAlgorithm algorithm) => algorithm switch
    {
        ContentAlgorithm.A128CbcHs256 => "A128CBC-HS256",
        ContentAlgorithm.A192CbcHs384 => "A192CBC-HS384",
        ContentAlgorithm.A256CbcHs512 => "A256CBC-HS512",
        ContentAlgorithm.A128Gcm => "A128GCM",
        ContentAlgorithm.A192Gcm => "A192GCM",
        ContentAlgorithm.A256Gcm => "A256GCM",
    };

    /// <summary>The algorithm of a name; null where none has it.</summary>
    public static KeyAlgorithm? Key(string? name) =>
        Enum.GetValues<KeyAlgorithm>().Cast<KeyAlgorithm?>().FirstOrDefault(algorithm => Of(algorithm!.Value) == name);

    /// <summary>The algorithm of a name; null where none has it.</summary>
    public static ContentAlgorithm? Content(string? name) =>
        Enum.GetValues<ContentAlgorithm>().Cast<ContentAlgorithm?>().FirstOrDefault(algorithm => Of(algorithm!.Value) == name);
}

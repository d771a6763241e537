using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Identity;

/// <summary>A private key, and its certificate when there is one.</summary>
public sealed class SigningKey : IDisposable
{
    private readonly AsymmetricAlgorithm _key;

    internal SigningKey(AsymmetricAlgorithm key, X509Certificate2? certificate)
    {
        _key = key;
        Certificate = certificate;
    }

    /// <summary>The certificate, with the private key in it, for TLS.</summary>
    public X509Certificate2? Certificate { get; }

    /// <summary>The algorithm that fits the key when the job names none (RFC 7518 section 3.1).</summary>
    public string UsualAlgorithm => _key switch
    {
        ECDsa { KeySize: 384 } => "ES384",
        ECDsa => "ES256",
        _ => "RS256",
    };

    /// <summary>Whether the key can make signatures of an algorithm.</summary>
    public bool Fits(string algorithm) => _key is RSA ? algorithm is "RS256" or "PS256" : algorithm == UsualAlgorithm;

    /// <summary>Reads a key from where a job says it is.</summary>
    /// <param name="folder">Where relative paths start.</param>
    /// <exception cref="RefusedException">It cannot be read, is not a private key, or its password is wrong.</exception>
    public static async Task<SigningKey> LoadAsync(DeclaredKey declared, SecretSources sources, string folder, CancellationToken cancel)
    {
        var bytes = await sources.ReadBytesAsync(declared.Private, cancel);
        var password = declared.Password is null ? null : (await sources.ReadAsync(declared.Password, cancel)).Reveal();
        return KeyFile.Read(
            bytes, password, declared.Certificate is null ? null : Path.Combine(folder, declared.Certificate), declared.Private.Text);
    }

    /// <summary>Signs bytes (RFC 7515 section 5.1).</summary>
    public byte[] Sign(ReadOnlySpan<byte> bytes, string algorithm) => (_key, algorithm) switch
    {
        (RSA rsa, "PS256") => rsa.SignData(bytes, HashAlgorithmName.SHA256, RSASignaturePadding.Pss),
        (RSA rsa, _) => rsa.SignData(bytes, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1),
        (ECDsa curve, "ES384") => curve.SignData(bytes, HashAlgorithmName.SHA384),
        (ECDsa curve, _) => curve.SignData(bytes, HashAlgorithmName.SHA256),
        _ => throw new InvalidOperationException($"{_key.GetType().Name} cannot sign"),
    };

    /// <inheritdoc/>
    public void Dispose()
    {
        _key.Dispose();
        Certificate?.Dispose();
    }
}

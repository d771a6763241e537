using System.Text;
using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>The access token of an identity on disk, sealed, so that runs and processes of this machine share it.</summary>
/// <param name="refreshName">The name that the identity's refresh token is kept under: it tells accounts of one client apart; null without
/// one.</param>
internal sealed class TokenCache(DeclaredIdentity identity, string? refreshName, SignInServices services)
{
    private const string Kind = "token";

    private string? _key;

    /// <summary>The token that was kept; null when there is none that can be used.</summary>
    public async Task<TokenFacts?> ReadAsync(CancellationToken cancel)
    {
        var key = await KeyAsync(cancel);
        if (await services.State.ReadAsync(Kind, key, cancel) is not { } document)
            return null;
        try
        {
            return JsonSerializer.Deserialize(services.Vault.Open(key, document), TokenFactsJson.Default.TokenFacts);
        }
        catch (Exception error) when (error is RefusedException or JsonException)
        {
            // A cache that cannot be read costs a sign-in and nothing else.
            return null;
        }
    }

    public async Task WriteAsync(TokenFacts token, CancellationToken cancel)
    {
        var key = await KeyAsync(cancel);
        await services.State.WriteAsync(
            Kind, key, services.Vault.Seal(key, JsonSerializer.SerializeToUtf8Bytes(token, TokenFactsJson.Default.TokenFacts)), cancel);
    }

    public async Task<bool> DropAsync(CancellationToken cancel) => await services.State.DeleteAsync(Kind, await KeyAsync(cancel), cancel);

    // The whole declaration, and what its secrets are: whoever has another secret gets no token by this one's, however alike the jobs are.
    private async Task<string> KeyAsync(CancellationToken cancel)
    {
        if (_key is not null)
            return _key;
        List<string?> parts = [DeclarationKey.Of(identity), refreshName];
        foreach (var source in identity.Sources)
            parts.Add(await DigestAsync(source, cancel));
        var text = DeclarationKey.Of(parts);
        return _key = $"{identity.Name}-{Convert.ToHexStringLower(services.Vault.Digest(Encoding.UTF8.GetBytes(text)))[..32]}";
    }

    private async Task<string> DigestAsync(SecretSource source, CancellationToken cancel)
    {
        try
        {
            return Convert.ToHexStringLower(services.Vault.Digest(await services.Secrets.ReadBytesAsync(source, cancel)));
        }
        catch (RefusedException)
        {
            // Of several secrets one may be missing; the sign-in tells when it is needed.
            return "missing";
        }
    }
}

using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Core.Identity;

/// <summary>The access token of an identity on disk, sealed, so that runs and processes of this machine share it.</summary>
/// <param name="refreshName">The name that the identity's refresh token is kept under: it tells accounts of one client apart; null without one.</param>
internal sealed class TokenCache(DeclaredIdentity identity, string? refreshName, IState state, Vault vault)
{
    private const string Kind = "token";

    /// <summary>The token that was kept; null when there is none that can be used.</summary>
    public async Task<TokenFacts?> ReadAsync(CancellationToken cancel)
    {
        var key = Key();
        if (await state.ReadAsync(Kind, key, cancel) is not { } document)
            return null;
        try
        {
            return JsonSerializer.Deserialize(vault.Open(key, document), TokenFactsJson.Default.TokenFacts);
        }
        catch (Exception error) when (error is RefusedException or JsonException)
        {
            // A cache that cannot be read costs a sign-in and nothing else.
            return null;
        }
    }

    public Task WriteAsync(TokenFacts token, CancellationToken cancel)
    {
        var key = Key();
        return state.WriteAsync(Kind, key, vault.Seal(key, JsonSerializer.SerializeToUtf8Bytes(token, TokenFactsJson.Default.TokenFacts)), cancel);
    }

    public Task<bool> DropAsync(CancellationToken cancel) => state.DeleteAsync(Kind, Key(), cancel);

    // Everything that makes it another token: whoever differs in one of these must not be given this one.
    private string Key()
    {
        IEnumerable<string?> parts =
        [
            identity.Grant, identity.Issuer?.AbsoluteUri, identity.TokenEndpoint?.AbsoluteUri, identity.ClientId, identity.Username, refreshName,
            identity.Assertion.Subject, identity.Assertion.Issuer, identity.Assertion.Audience, identity.Presentation.TokenAt?.Text, .. identity.Scope, "/",
            .. identity.Secrets, "/", identity.Key?.Private, .. Pairs(identity.TokenParameters), .. Pairs(identity.Assertion.Claims),
            .. identity.Presentation.Beside.Select(pair => pair.Key + "\n" + pair.Value.Text),
        ];
        var text = string.Join('\0', parts);
        return $"{identity.Name}-{Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text)))[..16]}";
    }

    private static IEnumerable<string> Pairs(IReadOnlyDictionary<string, string> map) => map.OrderBy(pair => pair.Key, StringComparer.Ordinal).Select(pair => pair.Key + "\n" + pair.Value);
}

using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.State;

namespace Cursiva.Core.Identity;

/// <summary>
/// What became of refresh tokens that came from outside, by their digest, and of the names that tokens are kept under. Whatever an
/// identity is called and wherever it reads a token from, one that was replaced once is known here, and its successor with it.
/// </summary>
internal sealed class RefreshFates(IState state, TimeProvider clock)
{
    private const string TokenKind = "refresh-fate";
    private const string OwnKind = "refresh-own";
    private const string RevokedKind = "refresh-revoked";

    /// <summary>The SHA-256 digest of a token, in lower-case hexadecimal.</summary>
    public static string Digest(string token) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(token)));

    /// <summary>Where a token's successors are kept, and whether it has one already; null for one that was never sent.</summary>
    public async Task<RefreshFate?> OfAsync(string token, CancellationToken cancel)
    {
        if (await state.ReadAsync(TokenKind, Digest(token), cancel) is not { } document)
            return null;
        var text = Encoding.UTF8.GetString(document);
        return new RefreshFate(text[1..], IsReplaced: text[0] == '+');
    }

    /// <summary>Makes it known, durably, that a token is about to be sent. Tokens that never left this store need no note.</summary>
    public async Task SentAsync(string token, string name, CancellationToken cancel)
    {
        if (!await IsOwnAsync(token, name, cancel))
            await WriteAsync(TokenKind, Digest(token), "-" + name, cancel);
    }

    /// <summary>Makes it known that a token was replaced by one that is kept under a name.</summary>
    public async Task ReplacedAsync(string token, string successor, string name, CancellationToken cancel)
    {
        if (!await IsOwnAsync(token, name, cancel))
            await WriteAsync(TokenKind, Digest(token), "+" + name, cancel);
        await OwnAsync(successor, name, cancel);
    }

    /// <summary>Makes it known that a server gave a token to this store alone.</summary>
    public async Task OwnAsync(string token, string name, CancellationToken cancel)
    {
        await WriteAsync(OwnKind, name, Digest(token), cancel);
        await state.DeleteAsync(RevokedKind, name, cancel);
    }

    /// <summary>Makes it known that the token of a name was revoked from here.</summary>
    public Task RevokedAsync(string name, CancellationToken cancel) =>
        WriteAsync(RevokedKind, name, clock.GetUtcNow().ToString("yyyy-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture), cancel);

    /// <summary>When the token of a name was revoked from here, in UTC; null when it was not.</summary>
    public async Task<string?> RevokedAtAsync(string name, CancellationToken cancel) =>
        await state.ReadAsync(RevokedKind, name, cancel) is { } document ? Encoding.UTF8.GetString(document) : null;

    private async Task<bool> IsOwnAsync(string token, string name, CancellationToken cancel) =>
        await state.ReadAsync(OwnKind, name, cancel) is { } document && Encoding.UTF8.GetString(document) == Digest(token);

    private Task WriteAsync(string kind, string key, string text, CancellationToken cancel) =>
        state.WriteAsync(kind, key, Encoding.UTF8.GetBytes(text), cancel);
}

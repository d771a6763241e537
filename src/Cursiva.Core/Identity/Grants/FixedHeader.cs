using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Identity;

/// <summary>A header whose value is a secret, for instance an API key; nobody is asked.</summary>
public sealed class FixedHeader(DeclaredIdentity identity, SignInServices services) : ITokens
{
    /// <summary>How a job declares it.</summary>
    internal static AskedGrant Declared { get; } = new()
    {
        Value = Grants.Header,
        SignsIn = false,
        Refreshes = false,
        Needs = () => [IdentityKeys.Secret],
        TokensOf = (identity, services) => new FixedHeader(identity, services),
    };

    private readonly TokenMaker _maker = new(identity, services.Secrets, services.Redactor, services.Clock);
    private int _secret;
    private volatile AccessToken? _current;

    /// <inheritdoc/>
    public async Task<AccessToken> GetAsync(CancellationToken cancel)
    {
        if (_current is { } current)
            return current;
        var value = await services.Secrets.ReadAsync(identity.Secrets[Math.Min(_secret, identity.Secrets.Count - 1)], cancel);
        return _current = await _maker.MakeAsync(
            new TokenFacts(value.Reveal(), null, DateTimeOffset.MaxValue, TimeSpan.MaxValue, null, []), cancel);
    }

    /// <inheritdoc/>
    public bool IsGood(AccessToken token) => true;

    /// <summary>The next secret is tried from now on, when the job names several.</summary>
    public void Refused(AccessToken token)
    {
        // Requests that were under way together are refused together; the next secret is tried once.
        if (Interlocked.CompareExchange(ref _current, null, token) == token)
            Interlocked.Increment(ref _secret);
    }
}

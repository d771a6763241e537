using Cursiva.Core.Jobs;

namespace Cursiva.Core.Checks;

/// <summary>
/// The combinations that the standards allow beside the one that a job declares: how the client proves itself (RFC 6749 section 2.3,
/// RFC 7523), what says for which API the token is (scope, RFC 8707 resource, audience), and the form of the body.
/// </summary>
internal static class AccessTrials
{
    /// <summary>Most sign-ins that a search makes as one identity.</summary>
    public const int Most = 16;

    /// <summary>Most of them that show a password: after a few wrong ones an account is locked.</summary>
    public const int MostWithPassword = 2;

    /// <summary>The ways to sign in that differ from the declared one, the smallest changes first.</summary>
    public static IReadOnlyList<AccessTrial> ToSignIn(DeclaredIdentity identity)
    {
        var proofs = Proofs(identity).ToList();
        var others = Targets(identity, null).Concat(Bodies(identity)).ToList();
        return Bounded(identity, [.. proofs, .. others, .. proofs.SelectMany(_ => others, (proof, other) => Both(identity, proof, other))]);
    }

    /// <summary>The ways to be let in by an API where the sign-in itself works.</summary>
    public static IReadOnlyList<AccessTrial> ToBeLetIn(DeclaredIdentity identity, Api api) =>
        Bounded(identity, [.. Targets(identity, api), new AccessTrial(identity, ["accept: \"*/*\" of the pulls"]) { Accept = "*/*" }]);

    private static IEnumerable<AccessTrial> Proofs(DeclaredIdentity identity)
    {
        if (identity.Secrets.Count > 0)
        {
            IReadOnlyList<string>[] ways = [[ClientAuths.Post], [ClientAuths.Basic], [ClientAuths.Basic, ClientAuths.Post]];
            foreach (var way in ways.Where(way => !way.SequenceEqual(identity.ClientAuth)))
                yield return new(
                    identity with { ClientAuth = way, MayLearnClientAuth = false },
                    [$"client-auth: {(way.Count == 1 ? way[0] : $"[{string.Join(", ", way)}]")}"]);
        }

        if (identity.Key is null)
            yield break;
        if (identity.Assertion.Audience is not null)
            yield return With(identity, identity.Assertion with { Audience = null }, "assertion: without audience:");
        if (identity.Issuer is { } issuer && identity.Assertion.Audience != issuer.OriginalString)
            yield return With(
                identity,
                identity.Assertion with { Audience = issuer.OriginalString },
                $"assertion: {{ audience: {issuer.OriginalString} }}");
        if (identity.TokenEndpoint is { } endpoint && identity.Issuer is null && identity.Assertion.Audience is null)
            yield return With(
                identity,
                identity.Assertion with { Audience = endpoint.GetLeftPart(UriPartial.Authority) },
                $"assertion: {{ audience: {endpoint.GetLeftPart(UriPartial.Authority)} }}");
        if (identity.Key.Certificate is not null && !identity.Assertion.SendCertificate)
            yield return With(identity, identity.Assertion with { SendCertificate = true }, "assertion: { x5c: true }");
    }

    private static IEnumerable<AccessTrial> Targets(DeclaredIdentity identity, Api? api)
    {
        string[] names = ["resource", "audience"];
        foreach (var name in names)
        {
            // The target that is declared, under the other name.
            foreach (var other in names.Where(
                other => other != name && identity.TokenParameters.ContainsKey(other) && !identity.TokenParameters.ContainsKey(name)))
                yield return new(
                    identity with { TokenParameters = Without(identity, other, name, identity.TokenParameters[other]) },
                    [$"token-parameters: {{ {name}: the value of {other} }}"]);
            if (identity.Scope is [var only] && !identity.TokenParameters.ContainsKey(name))
                yield return new(
                    identity with { Scope = [], TokenParameters = Without(identity, "", name, DeclaredValue.OfText(only)) },
                    [$"token-parameters: {{ {name}: {only} }} instead of scope:"]);
            if (api is not null && !identity.TokenParameters.ContainsKey(name))
            {
                foreach (var target in new[] { api.Base.GetLeftPart(
                    UriPartial.Authority), api.Base.OriginalString.TrimEnd('/') }.Distinct())
                    yield return new(
                        identity with { TokenParameters = Without(identity, "", name, DeclaredValue.OfText(target)) },
                        [$"token-parameters: {{ {name}: {target} }}"]);
            }
        }

        foreach (var name in names.Where(identity.TokenParameters.ContainsKey))
        {
            if (identity.TokenParameters[name] is { IsSource: false } value && identity.Scope.Count == 0)
                yield return new(
                    identity with { Scope = [value.Literal], TokenParameters = Without(identity, name, null, value) },
                    [$"scope: {value.Literal} instead of token-parameters: {name}"]);
        }

        if (identity.Scope.Count > 0)
            yield return new(identity with { Scope = [] }, ["no scope:"]);
    }

    private static IEnumerable<AccessTrial> Bodies(DeclaredIdentity identity) =>
        [new(
            identity with { TokenBodyIsJson = !identity.TokenBodyIsJson },
            [identity.TokenBodyIsJson ? "token-body: form" : "token-body: json"])];

    // Every change of the second that the first has not made.
    private static AccessTrial Both(DeclaredIdentity identity, AccessTrial proof, AccessTrial other) => new(
        proof.Identity with
        {
            Scope = other.Identity.Scope,
            TokenParameters = other.Identity.TokenParameters,
            TokenBodyIsJson = other.Identity.TokenBodyIsJson != identity.TokenBodyIsJson
                ? other.Identity.TokenBodyIsJson
                : proof.Identity.TokenBodyIsJson,
        },
        [.. proof.Changes, .. other.Changes]);

    private static IReadOnlyList<AccessTrial> Bounded(DeclaredIdentity identity, IEnumerable<AccessTrial> trials) =>
        [.. trials.Take(identity.Password is null ? Most : MostWithPassword)];

    private static AccessTrial With(DeclaredIdentity identity, DeclaredAssertion assertion, string change) =>
        new(identity with { Assertion = assertion }, [change]);

    private static Dictionary<string, DeclaredValue> Without(DeclaredIdentity identity, string removed, string? added, DeclaredValue value)
    {
        var parameters = identity.TokenParameters.Where(pair => pair.Key != removed).ToDictionary(StringComparer.Ordinal);
        if (added is not null)
            parameters[added] = value;
        return parameters;
    }
}

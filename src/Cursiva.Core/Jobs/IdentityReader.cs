using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads one identity.</summary>
internal sealed class IdentityReader(Reading reading)
{
    public DeclaredIdentity Read(string name, SectionReader section)
    {
        var identity = new DeclaredIdentity(name, section.Place, section.Choice(IdentityKeys.Grant) ?? "")
        {
            Issuer = section.Address(IdentityKeys.Issuer),
            TokenEndpoint = section.Address(IdentityKeys.TokenEndpoint),
            AuthorizationEndpoint = section.Address(IdentityKeys.AuthorizationEndpoint),
            DeviceAuthorizationEndpoint = section.Address(IdentityKeys.DeviceAuthorizationEndpoint),
            IntrospectionEndpoint = section.Address(IdentityKeys.IntrospectionEndpoint),
            RevocationEndpoint = section.Address(IdentityKeys.RevocationEndpoint),
            JwksUri = section.Address(IdentityKeys.JwksUri),
            Trust = section.LocalFile(IdentityKeys.Trust),
            ClientId = section.Text(IdentityKeys.ClientId) ?? "",
            ClientAuth = section.Choices(IdentityKeys.ClientAuth),
            Secrets = section.SecretSources(IdentityKeys.Secret),
            Key = ReadKey(section),
            Assertion = ReadAssertion(section),
            Scope = section.Words(IdentityKeys.Scope),
            TokenBodyIsJson = section.Choice(IdentityKeys.TokenBody) == "json",
            TokenParameters = section.ValueMap(IdentityKeys.TokenParameters),
            TokenHeaders = section.ValueMap(IdentityKeys.TokenHeaders),
            TokenEndsAt = section.Pointer(IdentityKeys.TokenEndsAt),
            Encryption = new PayloadReader(reading).SignIn(section),
            AuthorizationParameters = section.ValueMap(IdentityKeys.AuthorizationParameters),
            RefreshTokenLives = section.Duration(IdentityKeys.RefreshTokenLives),
            RefreshToken = section.SecretSources(IdentityKeys.RefreshToken) is [var refresh, ..] ? refresh : null,
            Username = section.Text(IdentityKeys.Username),
            Password = section.SecretSources(IdentityKeys.Password) is [var password, ..] ? password : null,
            RedirectUri = section.Address(IdentityKeys.RedirectUri),
            Presentation = ReadPresentation(section),
            Claims = section.TextMap(IdentityKeys.Claims),
            Places = IdentityKeys.Section.Keys.Where(section.Has).ToDictionary(key => key.Name, section.At),
            Permissions = [.. section.Texts(IdentityKeys.Permissions).Select(item => item.Text)],
        };
        Check(section, identity);
        return identity with
        {
            ClientAuth = identity.ClientAuth.Count > 0 ? identity.ClientAuth : [Usual(identity)],
            MayLearnClientAuth = identity.ClientAuth.Count == 0 && identity.Secrets.Count > 0,
        };
    }

    private static string Usual(DeclaredIdentity identity) =>
        identity.Secrets.Count > 0 ? ClientAuths.Basic : identity.Key is not null
            && !identity.Kind.AssertsItself ? ClientAuths.PrivateKeyJwt : ClientAuths.None;

    private void Check(SectionReader section, DeclaredIdentity identity)
    {
        if (WhiteSpace(identity.ClientId) is { } where)
            reading.Add(
                section.At(IdentityKeys.ClientId),
                $"white space {where} the client id of {section.Title}",
                "remove it; it was probably copied along");
        var (grant, kind) = (identity.Grant, identity.Kind);
        Need(section, grant, [.. kind.Needs()]);
        if (!kind.SignsIn)
            return;

        if (!section.Has(IdentityKeys.TokenEndpoint) && !section.Has(IdentityKeys.Issuer))
            reading.Add(
                section.Place,
                $"{section.Title} has no 'token-endpoint'",
                $"grant {grant} needs token-endpoint: {IdentityKeys.TokenEndpoint.Gist}; or issuer:, whose metadata has it");
        if (kind.NeedsProof
            && identity.Secrets.Count == 0
            && identity.Key is null
            && !section.Has(IdentityKeys.Secret)
            && !section.Has(IdentityKeys.PrivateKeyGroup))
            reading.Add(
                section.Place,
                $"{section.Title} has no 'secret' and no 'private-key'",
                $"grant {grant} needs secret: {IdentityKeys.Secret.Gist}; or private-key:, for assertions");
        CheckAuthentication(section, identity);
    }

    private void CheckAuthentication(SectionReader section, DeclaredIdentity identity)
    {
        foreach (var auth in identity.ClientAuth)
        {
            if (auth is ClientAuths.Basic or ClientAuths.Post && !section.Has(IdentityKeys.Secret))
                reading.Add(
                    section.At(IdentityKeys.ClientAuth),
                    $"{section.Title} has no 'secret'",
                    $"client-auth {auth} needs secret: {IdentityKeys.Secret.Gist}");
            if (auth is ClientAuths.PrivateKeyJwt or ClientAuths.Tls && !section.Has(IdentityKeys.PrivateKeyGroup))
                reading.Add(
                    section.At(IdentityKeys.ClientAuth),
                    $"{section.Title} has no 'private-key'",
                    $"client-auth {auth} needs private-key: with private: {IdentityKeys.PrivateKey.Gist}");
        }
    }

    private DeclaredKey? ReadKey(SectionReader identity)
    {
        if (identity.Inside(IdentityKeys.PrivateKeyGroup, reading) is not { } section)
            return null;
        return new DeclaredKey(
            section.SecretSources(IdentityKeys.PrivateKey) is [var source, ..] ? source : new SecretSource(SecretSource.File, "", null),
            section.LocalFile(IdentityKeys.Certificate),
            section.SecretSources(IdentityKeys.KeyPassword) is [var password, ..] ? password : null,
            section.Text(IdentityKeys.KeyId));
    }

    private DeclaredAssertion ReadAssertion(SectionReader identity)
    {
        if (identity.Inside(IdentityKeys.Assertion, reading) is not { } section)
            return new DeclaredAssertion();
        var usual = new DeclaredAssertion();
        var lifetime = section.Duration(IdentityKeys.Lifetime) ?? usual.Lifetime;
        if (lifetime <= TimeSpan.Zero || lifetime > DeclaredAssertion.LongestLifetime)
            reading.Add(
                section.At(IdentityKeys.Lifetime),
                $"an assertion that is valid for {Durations.ForPeople(lifetime)}",
                "write a duration of at most 5m: servers refuse longer ones");
        foreach (var key in new[] { IdentityKeys.AssertionIssuer, IdentityKeys.Subject, IdentityKeys.AssertionClaims }.Where(
            key => section.Has(key) && !Grants.Of(identity.Choice(IdentityKeys.Grant) ?? "").AssertsItself))
            reading.Add(
                section.At(key),
                $"assertion: {key.Name}: where the assertion proves the client",
                $"remove {key.Name}:: the client is issuer and subject of that assertion, and nothing is added (RFC 7523 section 3); only grant {Grants.JwtBearer} has {key.Name}:");
        return new DeclaredAssertion
        {
            Audience = section.Text(IdentityKeys.Audience),
            Issuer = section.Text(IdentityKeys.AssertionIssuer),
            Subject = section.Text(IdentityKeys.Subject),
            Lifetime = lifetime,
            Algorithm = section.Choice(IdentityKeys.Algorithm),
            SendCertificate = section.Choice(IdentityKeys.SendCertificate) == "true",
            Claims = section.TextMap(IdentityKeys.AssertionClaims),
        };
    }

    private Presentation ReadPresentation(SectionReader section)
    {
        var header = section.Text(IdentityKeys.Header) ?? Presentation.Authorization;
        if (!Confines.IsHeaderName(header))
            reading.Add(
                section.At(IdentityKeys.Header),
                $"'{header}' is not a header name",
                "write letters, digits and hyphens, with no space and no colon");
        var beside = new Dictionary<string, DeclaredValue>(StringComparer.OrdinalIgnoreCase);
        foreach (var (name, place, text) in section.RawTextMap(IdentityKeys.HeadersBeside))
        {
            if (!Confines.IsHeaderName(name))
                reading.Add(place, $"'{name}' is not a header name", "write letters, digits and hyphens, with no space and no colon");
            if (reading.Value(text, place, Presentation.IsOfToken, ["token/POINTER"]) is { } value)
                beside[name] = value;
        }

        return new Presentation
        {
            TokenAt = section.Pointer(IdentityKeys.TokenAt),
            Header = header,
            Scheme = section.Text(IdentityKeys.Scheme) ?? (
                header.Equals(Presentation.Authorization, StringComparison.OrdinalIgnoreCase) ? null : ""),
            Beside = beside,
        };
    }

    private void Need(SectionReader section, string grant, params ReadOnlySpan<Key> keys)
    {
        foreach (var key in keys)
        {
            if (!section.Has(key))
                reading.Add(section.Place, $"{section.Title} has no '{key.Name}'", $"grant {grant} needs {key.Name}: {key.Gist}");
        }
    }

    private static string? WhiteSpace(string text) =>
        text.Length == 0 || text.Trim().Length == text.Length ? null : char.IsWhiteSpace(text[0]) ? "before" : "after";
}

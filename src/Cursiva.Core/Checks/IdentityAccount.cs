using Cursiva.Core.Jobs;

namespace Cursiva.Core.Checks;

/// <summary>What is to be said of an identity before anybody signs in.</summary>
internal static class IdentityAccount
{
    /// <summary>Who signs in, where and how, on one line.</summary>
    public static string Describe(DeclaredIdentity identity)
    {
        if (identity.Grant == Grants.None)
            return "nobody signs in";
        if (identity.Grant == Grants.Header)
            return $"the header {identity.Presentation.Header}, its value from {string.Join(" or ", identity.Secrets)}";
        var where = identity.TokenEndpoint?.ToString() ?? $"the token endpoint of {identity.Issuer}";
        List<string> parts = identity.Grant == Grants.Session ? [] : [string.Join(" and ", identity.ClientAuth)];
        if (identity.Secrets.Count > 0)
            parts.Add($"secret from {string.Join(" or ", identity.Secrets)}");
        if (identity.Key is { } key)
            parts.Add($"key from {key.Private}");
        if (identity.Refreshes)
            parts.Add($"refresh token {identity.RefreshToken?.Text ?? "kept for the identity"}");
        if (identity.Password is { } password)
            parts.Add($"password of {identity.Username} from {password}");
        if (ExchangeWords.Of(identity.Encryption) is { } encrypted)
            parts.Add(encrypted);
        var scope = identity.Scope.Count > 0 ? $", scope {string.Join(' ', identity.Scope)}" : "";
        return $"{identity.Grant} at {where}{(identity.ClientId.Length > 0 ? $" as {identity.ClientId}" : "")}{(parts.Count > 0 ? $" ({string.Join(", ", parts)})" : "")}{scope}";
    }

    /// <summary>What a person should know of it, each as a sentence without its full stop.</summary>
    public static IEnumerable<string> Warn(DeclaredIdentity identity, string folder, Func<string, string?> environment)
    {
        foreach (var source in identity.Sources.Append(identity.RefreshToken).OfType<SecretSource>())
        {
            if (source.Kind == SecretSource.Environment && string.IsNullOrEmpty(environment(source.Name)))
                yield return $"the environment variable {source.Name}, a secret of identity '{identity.Name}', is not set here; a run would need it";
            if (source.Kind == SecretSource.File && !File.Exists(Path.Combine(folder, source.Name)))
                yield return $"the secret file {Path.Combine(folder, source.Name)} of identity '{identity.Name}' does not exist; a run would need it";
        }

        if (identity.Grant == Grants.Password)
            yield return $"identity '{identity.Name}' signs in with a person's password: it fails when the password changes, bypasses a second factor, and gives the job everything that the person may do; RFC 9700 section 2.4 forbids it. Prefer client_credentials, or authorization_code with cursiva sign-in JOB {identity.Name}";
        if (identity.Trust is { } trust && !File.Exists(Path.Combine(folder, trust)))
            yield return $"the file {trust} of trust: in identity '{identity.Name}' does not exist; a run would need it";
    }
}

using System.Text.RegularExpressions;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Names the line of the job file that a next step speaks of.</summary>
public static partial class StepPlace
{
    /// <summary>
    /// The step, with the identity's own names in its commands (who signs in, where its secret and its certificate are), and the place of
    /// the first key in it that belongs to the identity or the API; as it is when it names none.
    /// </summary>
    public static string? Of(string? step, DeclaredIdentity? identity, Api? api)
    {
        if (identity is not null)
            step = step is null ? null : Commands(step, identity);
        foreach (var key in step is null ? [] : Keys().Matches(step).Select(match => match.Groups[1].Value))
        {
            if (identity is not null && IdentityKeys.Section.Keys.Any(own => own.Name == key))
                return $"{step} ({identity.At(key)})";
            if (api is not null && ApiKeys.ApiSection.Keys.Any(own => own.Name == key))
                return $"{step} ({api.Place})";
        }

        return step;
    }

    private static string Commands(string step, DeclaredIdentity identity)
    {
        if (!identity.PersonCanSignIn)
            step = SignIn().Replace(
                step,
                identity.Refreshes
                    ? $"sign in once more at the refresh token's origin, then {KeepAgain(identity.RefreshToken!)}"
                    : "use a grant with a person behind it: authorization_code, then cursiva sign-in JOB IDENTITY");
        step = step.Replace(" IDENTITY", " " + identity.Name, StringComparison.Ordinal);
        if (SecretOf(step, identity) is { } secret)
            step = step.Replace("cursiva secret keep NAME", KeepAgain(secret), StringComparison.Ordinal);
        return identity.Key is { } key && CertificateOf(key) is { } file
            ? step.Replace(
                "cursiva cert show FILE",
                $"cursiva cert show {file}{(key.Password is { } password ? $" --password {password}" : "")}",
                StringComparison.Ordinal)
            : step;
    }

    // What the step speaks of: a person's password, or else the secret of the client.
    private static SecretSource? SecretOf(string step, DeclaredIdentity identity) =>
        step.Contains("password", StringComparison.Ordinal)
            && identity.Password is { } password
                ? password
                : identity.Secrets is [var first, ..] ? first : identity.Sources.FirstOrDefault();

    private static string? CertificateOf(DeclaredKey key) =>
        key.Certificate ?? (key.Private is { Kind: SecretSource.File, Pointer: null } file ? file.Name : null);

    private static string KeepAgain(SecretSource source) => source.Kind switch
    {
        SecretSource.Kept => $"cursiva secret keep {source.Name}",
        SecretSource.Environment => $"set the environment variable {source.Name}",
        SecretSource.Systemd => $"encrypt the credential {source.Name} again with systemd-creds",
        _ => $"write the file {source.Name}",
    };

    // What a person would be told, up to a choice that only a person's identity has.
    [GeneratedRegex(@"sign in (?:once(?: more)?|again as the answer asks)(?::| with) cursiva sign-in JOB IDENTITY(?:; or use an application's token[^;]*)?")]
    private static partial Regex SignIn();

    [GeneratedRegex(@"(?<![\w-])([a-z][a-z-]*):(?=[\s,;)]|$)")]
    private static partial Regex Keys();
}

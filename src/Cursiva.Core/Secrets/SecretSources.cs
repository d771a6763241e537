using Cursiva.Core.Refusals;

namespace Cursiva.Core.Secrets;

/// <summary>Reads secrets from where a job says they are: <c>env:NAME</c> or <c>file:PATH</c>.</summary>
/// <param name="folder">Where relative paths start.</param>
public sealed class SecretSources(Func<string, string?> environment, string folder, Redactor redactor)
{
    /// <summary>Reads the secret behind a source.</summary>
    /// <exception cref="RefusedException">There is nothing there. The message names the source, never a value.</exception>
    public SecretText Read(string source)
    {
        var colon = source.IndexOf(':', StringComparison.Ordinal);
        var (kind, name) = colon < 0 ? ("", source) : (source[..colon], source[(colon + 1)..]);
        return redactor.Remember(kind switch
        {
            "env" => FromEnvironment(name),
            "file" => FromFile(name),
            _ => throw Missing($"'{source}' is no source of a secret", "write env:NAME or file:PATH"),
        });
    }

    private string FromEnvironment(string name) => environment(name) switch
    {
        null => throw Missing($"the environment variable {name} is not set", $"set {name} for this process; under systemd with EnvironmentFile= or LoadCredential="),
        "" => throw Missing($"the environment variable {name} is empty", $"set {name} to the secret's value"),
        var value => value,
    };

    private string FromFile(string name)
    {
        var path = Path.Combine(folder, name);
        try
        {
            // A file written by an editor ends with a line break that is no part of the secret.
            var text = File.ReadAllText(path).TrimEnd('\r', '\n');
            return text.Length > 0 ? text : throw Missing($"the secret file {path} is empty", "write the secret's value into it");
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw Missing($"the secret file {path} cannot be read ({(File.Exists(path) ? "no permission" : "there is no such file")})", "give a readable path, from the job file's folder");
        }
    }

    private static RefusedException Missing(string what, string next) => new(new Refusal(Outcome.SignInRefused, what) { NextStep = next });
}

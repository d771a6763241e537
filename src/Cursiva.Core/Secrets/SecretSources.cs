using System.Collections.Concurrent;
using System.Text;
using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Secrets;

/// <summary>Reads secrets from where a job says they are.</summary>
/// <param name="folder">Where relative paths start.</param>
/// <param name="store">The encrypted store, behind <c>kept:</c>; null where nothing is kept.</param>
/// <param name="warn">Is told of what a person should mend, which stops nothing.</param>
public sealed class SecretSources(
    Func<string, string?> environment, string folder, SecretStore? store, Redactor redactor, Action<string> warn)
{
    private bool _masked;

    private readonly ConcurrentDictionary<string, bool> _warned = new(StringComparer.Ordinal);

    /// <summary>Reads the secret behind a source.</summary>
    /// <exception cref="RefusedException">There is nothing there. The message names the source, never a value.</exception>
    public async Task<SecretText> ReadAsync(SecretSource source, CancellationToken cancel) =>
        _masked ? new SecretText(Redactor.Mask) : redactor.Remember(source.Kind switch
        {
            SecretSource.Environment => FromEnvironment(source.Name),
            SecretSource.Kept => await FromStoreAsync(source.Name, cancel),
            _ => FromFile(source),
        });

    /// <summary>Sources outside the store: of what opens it.</summary>
    public static SecretSources WithoutStore(Func<string, string?> environment, string folder, Redactor redactor, Action<string> warn) =>
        new(environment, folder, null, redactor, warn);

    /// <summary>Sources that read nothing: every secret is the mask that stands for it in traces.</summary>
    public SecretSources Masked() => new(environment, folder, store, redactor, warn) { _masked = true };

    /// <summary>The secret behind a value that is a source, otherwise the value's own text.</summary>
    /// <exception cref="RefusedException">There is nothing there.</exception>
    public async Task<SecretText> ReadAsync(FilledValue value, CancellationToken cancel) =>
        value.Source is { } source ? await ReadAsync(source, cancel) : new SecretText(value.Text);

    /// <summary>The same for a value without placeholders.</summary>
    /// <exception cref="RefusedException">There is nothing there.</exception>
    public Task<SecretText> ReadAsync(DeclaredValue value, CancellationToken cancel) =>
        ReadAsync(value.TryFill(_ => null) ?? throw new InvalidOperationException($"{value.Written} has placeholders"), cancel);

    /// <summary>The bytes behind a source, for keys: a file as it is, any other secret as UTF-8.</summary>
    /// <exception cref="RefusedException">There is nothing there.</exception>
    public async Task<byte[]> ReadBytesAsync(SecretSource source, CancellationToken cancel)
    {
        return source is { Kind: SecretSource.File or SecretSource.Systemd, Pointer: null } && !_masked
            ? Bytes(source, PathOf(source))
            : Encoding.UTF8.GetBytes((await ReadAsync(source, cancel)).Reveal());
    }

    private string FromEnvironment(string name) => environment(name) switch
    {
        null => throw Missing(
            $"the environment variable {name} is not set",
            $"set {name} for this process, in a file given with --env-file, or under systemd with EnvironmentFile="),
        "" => throw Missing($"the environment variable {name} is empty", $"set {name} to the secret's value"),
        var value => value,
    };

    private async Task<string> FromStoreAsync(string name, CancellationToken cancel) =>
        (store is null ? null : await store.ReadAsync(name, cancel)) ?? throw Missing(
            $"there is no secret named '{name}'", $"store it once: cursiva secret keep {name}");

    private string FromFile(SecretSource source)
    {
        var path = PathOf(source);
        var text = Encoding.UTF8.GetString(Bytes(source, path));
        if (source.Pointer is { } pointer)
            return Inside(text, pointer, path);

        // A file written by an editor ends with a line break that is no part of the secret.
        var value = text.TrimStart('\uFEFF').TrimEnd('\r', '\n');
        return value.Length > 0 ? value : throw Missing($"the secret file {path} is empty", "write the secret's value into it");
    }

    private string PathOf(SecretSource source)
    {
        if (source.Kind == SecretSource.File)
            return Path.Combine(folder, source.Name);
        var credentials = environment("CREDENTIALS_DIRECTORY");
        return string.IsNullOrEmpty(credentials)
            ? throw Missing(
                $"'{source}' needs systemd's credential folder, which this process does not have",
                $"run it as a service with LoadCredential={source.Name}:PATH")
            : Path.Combine(credentials, source.Name);
    }

    private byte[] Bytes(SecretSource source, string path)
    {
        try
        {
            var mode = File.GetUnixFileMode(path);
            var bytes = File.ReadAllBytes(path);
            if (source.Kind == SecretSource.File
                && (mode & (UnixFileMode.GroupRead | UnixFileMode.OtherRead)) != 0
                && !IsPublic(bytes)
                && _warned.TryAdd(path, true))
                warn($"the secret file {path} can be read by others (mode {Convert.ToString((int)mode & 511, 8)}); chmod 600 restricts it to you");
            return bytes;
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            var why = Directory.Exists(path) ? "it is a folder" : File.Exists(path) ? "no permission" : "there is no such file";
            throw Missing(
                $"the secret file {path} cannot be read ({why})",
                source.Kind == SecretSource.File
                    ? "name a readable file, relative to the job file's folder"
                    : $"load it with LoadCredential={source.Name}:PATH");
        }
    }

    // A certificate or public key in PEM is nobody's secret.
    private static bool IsPublic(ReadOnlySpan<byte> bytes) =>
        (bytes.IndexOf("-----BEGIN CERTIFICATE-----"u8) >= 0 || bytes.IndexOf("-----BEGIN PUBLIC KEY-----"u8) >= 0)
            && bytes.IndexOf("PRIVATE KEY"u8) < 0;

    private static string Inside(string text, JsonPointer pointer, string path)
    {
        try
        {
            using var document = JsonDocument.Parse(text);
            return pointer.Find(document.RootElement) is { ValueKind: JsonValueKind.String } value
                ? value.GetString()!
                : throw Missing($"the file {path} has no text at {pointer}", "compare the pointer after # with the file");
        }
        catch (JsonException error)
        {
            throw Missing(
                $"the file {path} is not JSON (line {error.LineNumber + 1})", "name a JSON file before #, or remove the pointer");
        }
    }

    private static RefusedException Missing(string what, string next) => new(new Refusal(Outcome.SignInRefused, what) { NextStep = next });
}

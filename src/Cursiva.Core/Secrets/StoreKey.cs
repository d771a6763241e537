using System.Security.Cryptography;
using Cursiva.Core.Files;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Secrets;

/// <summary>
/// The key of the store, 256 bits. It comes from the environment variable <c>CURSIVA_STORE_KEY</c> (base64), from the file that
/// <c>CURSIVA_STORE_KEY_FILE</c> names, from systemd's credential <c>cursiva-store-key</c>, or from <c>store.key</c> in the state
/// folder, which is made on first use.
/// </summary>
public sealed class StoreKey(StateFolder state, IDisk disk, Func<string, string?> environment)
{
    /// <summary>The environment variable with the key of the store.</summary>
    public const string Variable = "CURSIVA_STORE_KEY";
    /// <summary>The environment variable with the path of a file that has it.</summary>
    public const string FileVariable = "CURSIVA_STORE_KEY_FILE";
    /// <summary>The systemd credential that has it.</summary>
    public const string Credential = "cursiva-store-key";

    private const int Length = 32;

    /// <summary>Where the key is, in words; never the key.</summary>
    public string Where => Given(Variable) is not null ? $"the environment variable {Variable}" : KeyFile;

    /// <summary>Whether there is a key to read, or one would be made.</summary>
    public bool IsThere => Given(Variable) is not null || System.IO.File.Exists(KeyFile);

    private string KeyFile =>
        Given(FileVariable)
        ?? (Given("CREDENTIALS_DIRECTORY") is { } folder && System.IO.File.Exists(Path.Combine(folder, Credential))
            ? Path.Combine(folder, Credential)
            : null)
        ?? Path.Combine(state.Root, "store.key");

    /// <summary>Reads the key, and makes the key file in the state folder when there is none yet.</summary>
    /// <exception cref="RefusedException">The key cannot be read, is not a key, or others may read its file.</exception>
    public byte[] Read()
    {
        if (Given(Variable) is { } text)
            return Decode(text, Where);

        var path = KeyFile;
        if (path == Path.Combine(state.Root, "store.key") && !System.IO.File.Exists(path))
            return System.IO.File.Exists(WantedFile(state)) ? throw Wanted(path) : Make(path);
        try
        {
            var mode = System.IO.File.GetUnixFileMode(path);
            var owner = FileOwner.Of(path);
            var isCredential = path.StartsWith(Given("CREDENTIALS_DIRECTORY") ?? "\0", StringComparison.Ordinal);
            if (!isCredential && owner is not null && (owner.User != 0 || owner.OthersMayWrite))
                StateFolder.RequireOwn(path, "the store's key", owner);
            if ((mode & (UnixFileMode.GroupRead | UnixFileMode.OtherRead)) != 0 && !isCredential)
                throw Wrong($"the key file {path} can be read by others (mode {Convert.ToString((int)mode, 8)})", $"chmod 600 {path}");
            return Decode(System.IO.File.ReadAllText(path), path);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw Wrong(
                $"the key file {path} cannot be read ({(System.IO.File.Exists(path) ? "no permission" : "there is no such file")})",
                $"name a readable file with {FileVariable}, or unset it");
        }
    }

    /// <summary>
    /// The file that says that what is sealed here has a key already, which was not restored with it: no other one is made.
    /// </summary>
    public static string WantedFile(StateFolder state) => Path.Combine(state.Root, "store.key-wanted");

    private RefusedException Wanted(string path) => Wrong(
        $"the store's key is missing: this state was restored from a backup, and its key was {System.IO.File.ReadAllText(WantedFile(state)).Trim()}",
        $"put that key at {path} (mode 600), or name it with {Variable} or {FileVariable}; or start with a new one: rm {WantedFile(state)}");

    private byte[] Make(string path)
    {
        disk.CreateFolder(state.Root);
        var temporary = $"{path}.{Guid.NewGuid():n}";
        WholeFile.Write(
            disk, temporary, System.Text.Encoding.ASCII.GetBytes(Convert.ToBase64String(RandomNumberGenerator.GetBytes(Length)) + "\n"));
        try
        {
            // Two processes may get here at once: the first file stays, and both use what it holds.
            System.IO.File.Move(temporary, path, overwrite: false);
            disk.FlushFolder(state.Root);
        }
        catch (IOException) when (System.IO.File.Exists(path))
        {
            disk.Delete(temporary);
        }

        return Decode(System.IO.File.ReadAllText(path), path);
    }

    private static byte[] Decode(string text, string where)
    {
        var key = new byte[Length + 1];
        return Convert.TryFromBase64String(text.Trim(), key, out var length) && length == Length
            ? key[..Length]
            : throw Wrong(
                $"{where} does not contain the store's key", "it must be 32 random bytes in base64: head -c 32 /dev/urandom | base64");
    }

    private static RefusedException Wrong(string what, string next) => new(new Refusal(Outcome.SignInRefused, what) { NextStep = next });

    private string? Given(string name) => environment(name) is { Length: > 0 } value ? value : null;
}

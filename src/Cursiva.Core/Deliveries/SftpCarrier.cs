using System.Net.Sockets;
using System.Security.Cryptography;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Secrets;
using Renci.SshNet;
using Renci.SshNet.Common;

namespace Cursiva.Core.Deliveries;

/// <summary>Puts files on a server by SFTP, each under a temporary name first. Whether they arrived can be seen there.</summary>
internal sealed class SftpCarrier(SftpWay way, SignInServices services) : ICarrier
{
    private const string Temporary = ".part";

    private static readonly TimeSpan s_patience = TimeSpan.FromSeconds(60);

    /// <inheritdoc/>
    public Task<Packed> PackAsync(Parcel parcel, Outbox outbox, CancellationToken cancel) =>
        Task.FromResult(new Packed(way.Path.Fill(parcel.News.Names).TrimEnd('/'), PackedFiles.Put(parcel, outbox)));

    /// <inheritdoc/>
    public async Task<SendResult> SendAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel)
    {
        var result = await WithServerAsync(async server =>
        {
            foreach (var (name, file) in entry.Files.Zip(files))
                await PutAsync(server, file, $"{entry.To}/{name}", cancel);
            return true;
        }, cancel);
        return result.Said is null ? new SendResult(LedgerPhase.Sent, "") : new SendResult(result.Phase, result.Said);
    }

    /// <inheritdoc/>
    public async Task<bool?> HasArrivedAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel)
    {
        var result = await WithServerAsync(async server =>
        {
            foreach (var (name, file) in entry.Files.Zip(files))
            {
                if (!await SameAsync(server, file, $"{entry.To}/{name}", cancel))
                    return false;
            }

            return true;
        }, cancel);
        return result.Said is null ? result.Value : null;
    }

    private async Task<(bool Value, string? Said, LedgerPhase Phase)> WithServerAsync(
        Func<SftpClient, Task<bool>> use, CancellationToken cancel)
    {
        using var proof = await ProofAsync(cancel);
        var connection = new ConnectionInfo(way.Host, way.Port, way.User, proof.Method) { Timeout = s_patience };
        using var server = new SftpClient(connection) { OperationTimeout = s_patience };
        string? shown = null;
        server.HostKeyReceived += (_, key) =>
        {
            shown = key.FingerPrintSHA256.TrimEnd('=');
            key.CanTrust = CryptographicOperations.FixedTimeEquals(
                System.Text.Encoding.ASCII.GetBytes(shown), System.Text.Encoding.ASCII.GetBytes(way.HostKey));
        };
        try
        {
            await server.ConnectAsync(cancel);
            var value = await use(server);
            server.Disconnect();
            return (value, null, LedgerPhase.Sent);
        }
        catch (SshAuthenticationException error)
        {
            return (false, Clean($"{way.Host} refused the sign-in of '{way.User}': {error.Message}"), LedgerPhase.Ready);
        }
        catch (SshException) when (shown is not null && shown != way.HostKey)
        {
            return (
                false,
                $"{way.Host} shows the key SHA256:{shown}, and host-key: says SHA256:{way.HostKey}; nothing was sent. Ask the server's administrator whether it has a new key; if so, change host-key:",
                LedgerPhase.Ready);
        }
        catch (Exception error) when (error is SftpPermissionDeniedException or SftpPathNotFoundException)
        {
            return (false, Clean($"{way.Host} does not accept it: {error.Message}"), LedgerPhase.Ready);
        }
        catch (Exception error) when (error is SshException or SocketException or IOException or TimeoutException)
        {
            // The last step is a rename, which can be looked at: nothing of this is in doubt.
            return (false, Clean($"{way.Host}:{way.Port} cannot be used: {error.Message}"), LedgerPhase.Ready);
        }
    }

    private async Task<SftpProof> ProofAsync(CancellationToken cancel)
    {
        if (way.Password is { } password)
            return new SftpProof(
                new PasswordAuthenticationMethod(way.User, (await services.Secrets.ReadAsync(password, cancel)).Reveal()), null);
        var bytes = await services.Secrets.ReadBytesAsync(way.Key!, cancel);
        var protection = way.KeyPassword is { } source ? (await services.Secrets.ReadAsync(source, cancel)).Reveal() : null;
        try
        {
            using var stream = new MemoryStream(bytes);
            var key = protection is null ? new PrivateKeyFile(stream) : new PrivateKeyFile(stream, protection);
            return new SftpProof(new PrivateKeyAuthenticationMethod(way.User, key), key);
        }
        catch (Exception error) when (error is SshException or CryptographicException)
        {
            throw new Refusals.RefusedException(new Refusals.Refusal(
                Refusals.Outcome.DeliveryFailed, $"the private key of {way.Key} cannot be read: {services.Redactor.Clean(error.Message)}")
            {
                NextStep = protection is null
                    ? "say where its password is with key-password:, or provide the key in OpenSSH or PEM format"
                    : "compare the password with the key's",
            }, error);
        }
    }

    private static async Task PutAsync(SftpClient server, string file, string path, CancellationToken cancel)
    {
        await MakeFolderAsync(server, path[..path.LastIndexOf('/')], cancel);
        using (var source = File.OpenRead(file))
        {
            using var target = await server.OpenAsync(path + Temporary, FileMode.Create, FileAccess.Write, cancel);
            await source.CopyToAsync(target, 1 << 18, cancel);
        }

        // In place of an earlier file at once, where the server can; others need the name to be free.
        try
        {
            server.RenameFile(path + Temporary, path, isPosix: true);
        }
        catch (Exception error) when (error is NotSupportedException or SshException && error is not SshConnectionException)
        {
            if (await server.ExistsAsync(path, cancel))
                await server.DeleteFileAsync(path, cancel);
            await server.RenameFileAsync(path + Temporary, path, cancel);
        }
    }

    private static async Task MakeFolderAsync(SftpClient server, string folder, CancellationToken cancel)
    {
        if (folder.Length == 0 || await server.ExistsAsync(folder, cancel))
            return;
        if (folder.LastIndexOf('/') is > 0 and var slash)
            await MakeFolderAsync(server, folder[..slash], cancel);
        await server.CreateDirectoryAsync(folder, cancel);
    }

    private static async Task<bool> SameAsync(SftpClient server, string file, string path, CancellationToken cancel)
    {
        if (!await server.ExistsAsync(path, cancel) || server.GetAttributes(path).Size != new FileInfo(file).Length)
            return false;
        using var there = await server.OpenAsync(path, FileMode.Open, FileAccess.Read, cancel);
        using var here = File.OpenRead(file);
        return Enumerable.SequenceEqual(await SHA256.HashDataAsync(there, cancel), await SHA256.HashDataAsync(here, cancel));
    }

    private string Clean(string text) => services.Redactor.Clean(text);
}

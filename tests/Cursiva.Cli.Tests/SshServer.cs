using System.Diagnostics;
using System.Net;
using System.Net.Sockets;

namespace Cursiva.Cli.Tests;

/// <summary>A real OpenSSH server that serves files alone, on a free loopback port, to the user of the tests.</summary>
internal sealed class SshServer : IDisposable
{
    private const string Program = "/usr/sbin/sshd";

    private readonly Process _process;
    private readonly TemporaryFolder _folder;

    private SshServer(Process process, TemporaryFolder folder, int port, string hostKey)
    {
        (_process, _folder, Port, HostKey) = (process, folder, port, hostKey);
    }

    public int Port { get; }

    /// <summary>The fingerprint of the server's key, as ssh-keygen prints it.</summary>
    public string HostKey { get; }

    /// <summary>The file with the private key that may sign in, protected by the password "key pass".</summary>
    public string UserKey => _folder["user"];

    /// <summary>Where paths of the server start.</summary>
    public string Home => _folder["home"];

    /// <summary>Starts the server, or skips the test where it is not installed.</summary>
    public static async Task<SshServer> StartAsync()
    {
        Assert.SkipUnless(File.Exists(Program), "OpenSSH's server is not installed; on Debian: apt-get install openssh-server");
        var folder = new TemporaryFolder();
        Directory.CreateDirectory(folder["home"]);
        if (Environment.IsPrivilegedProcess)
            Directory.CreateDirectory("/run/sshd");
        await MakeAsync(folder, "-t", "ed25519", "-f", folder["host"], "-N", "", "-q");
        await MakeAsync(folder, "-t", "ed25519", "-f", folder["user"], "-N", "key pass", "-q");
        File.Copy(folder["user.pub"], folder["allowed"]);
        var fingerprint = (await App.RunAsync("ssh-keygen", ["-l", "-f", folder["host.pub"]], folder.Path, [])).ShouldEndWith(0).Out.Split(' ')[1];
        using (var free = new TcpListener(IPAddress.Loopback, 0))
        {
            free.Start();
            var port = ((IPEndPoint)free.LocalEndpoint).Port;
            free.Stop();
            File.WriteAllText(folder["config"], $"""
                Port {port}
                ListenAddress 127.0.0.1
                HostKey {folder["host"]}
                AuthorizedKeysFile {folder["allowed"]}
                PidFile none
                UsePAM no
                StrictModes no
                PermitRootLogin yes
                PasswordAuthentication yes
                Subsystem sftp internal-sftp
                ForceCommand internal-sftp -d {folder["home"]}
                LogLevel ERROR
                """);
            var process = Process.Start(new ProcessStartInfo(Program, ["-D", "-e", "-f", folder["config"]]) { RedirectStandardError = true })!;
            var server = new SshServer(process, folder, port, fingerprint);
            await server.ListensAsync();
            return server;
        }
    }

    public void Dispose()
    {
        _process.Kill(entireProcessTree: true);
        _process.WaitForExit();
        _process.Dispose();
        _folder.Dispose();
    }

    private async Task ListensAsync()
    {
        for (var tries = 0; ; tries++)
        {
            try
            {
                using var client = new TcpClient();
                await client.ConnectAsync(IPAddress.Loopback, Port);
                return;
            }
            catch (SocketException) when (tries < 100)
            {
                await Task.Delay(50);
            }
        }
    }

    private static async Task MakeAsync(TemporaryFolder folder, params string[] arguments) => (await App.RunAsync("ssh-keygen", arguments, folder.Path, [])).ShouldEndWith(0);
}

using System.Diagnostics;

namespace Cursiva.Cli.Tests;

/// <summary>A mail server of somebody else's, on a free loopback port.</summary>
internal sealed class MailServer : IDisposable
{
    private readonly Process _process;
    private readonly TemporaryFolder _folder;

    private MailServer(Process process, TemporaryFolder folder, int port)
    {
        (_process, _folder, Port) = (process, folder, port);
    }

    public int Port { get; }

    /// <summary>The mails that it took, in their order.</summary>
    public IReadOnlyList<string> Mails => [.. Directory.GetFiles(_folder.Path, "*.eml").OrderBy(path => int.Parse(Path.GetFileNameWithoutExtension(path), System.Globalization.CultureInfo.InvariantCulture)).Select(File.ReadAllText)];

    /// <summary>Sender, recipients and who signed in, of every mail that began to come.</summary>
    public IReadOnlyList<string> Envelopes => File.Exists(_folder["envelopes"]) ? File.ReadAllLines(_folder["envelopes"]) : [];

    /// <summary>The file with the authority that its certificate comes from.</summary>
    public string Authority => _folder["ca.pem"];

    /// <summary>Starts the server, or skips the test where it is not installed.</summary>
    public static async Task<MailServer> StartAsync(string manner = "")
    {
        Tools.Require("node");
        var home = Path.Combine(App.Root, "tests", "real");
        Assert.SkipUnless(Directory.Exists(Path.Combine(home, "node_modules", "smtp-server")), "the real mail server is not installed; npm ci in tests/real installs it");
        var folder = new TemporaryFolder();
        File.WriteAllText(folder["manner"], manner);
        TestAuthority.Write(folder.Path, "ca.pem", "server.crt", "server.key");
        var process = Process.Start(new ProcessStartInfo("node", ["mail.mjs", folder.Path]) { WorkingDirectory = home, RedirectStandardOutput = true })!;
        var line = await process.StandardOutput.ReadLineAsync();
        line.ShouldStartWith("listening on ");
        return new MailServer(process, folder, int.Parse(line!["listening on ".Length..], System.Globalization.CultureInfo.InvariantCulture));
    }

    /// <summary>What it does from now on: see mail.mjs.</summary>
    public void Behave(string manner) => File.WriteAllText(_folder["manner"], manner);

    public void Dispose()
    {
        _process.Kill();
        _process.WaitForExit();
        _process.Dispose();
        _folder.Dispose();
    }
}

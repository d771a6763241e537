namespace Cursiva.Cli.Tests;

/// <summary>Real servers that the tests of a class share; each is started when a test asks for it first.</summary>
public sealed class RealServers : IDisposable
{
    private PostgresServer? _postgres;
    private SshServer? _ssh;

    /// <summary>The database server.</summary>
    internal async Task<PostgresServer> PostgresAsync() => _postgres ??= await PostgresServer.StartAsync();

    /// <summary>The server of files, with nothing on it.</summary>
    internal async Task<SshServer> SshAsync()
    {
        _ssh ??= await SshServer.StartAsync();
        foreach (var entry in new DirectoryInfo(_ssh.Home).GetFileSystemInfos())
        {
            if (entry is DirectoryInfo folder)
                folder.Delete(recursive: true);
            else
                entry.Delete();
        }

        return _ssh;
    }

    public void Dispose()
    {
        _postgres?.Dispose();
        _ssh?.Dispose();
    }
}

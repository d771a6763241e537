using System.Diagnostics;
using System.Net;
using System.Net.Sockets;

namespace Cursiva.Cli.Tests;

/// <summary>A real PostgreSQL server in a folder of its own, on a free loopback port.</summary>
internal sealed class PostgresServer : IDisposable
{
    public const string Password = "data base: 100 %";

    private readonly TemporaryFolder _folder;
    private readonly string _programs;

    private PostgresServer(TemporaryFolder folder, string programs, int port)
    {
        (_folder, _programs, Port) = (folder, programs, port);
    }

    public int Port { get; }

    /// <summary>The file with the authority that the server's certificate comes from.</summary>
    public string Authority => _folder["data/ca.pem"];

    /// <summary>Starts the server, or skips the test where it is not installed.</summary>
    public static async Task<PostgresServer> StartAsync()
    {
        var programs = Directory.Exists("/usr/lib/postgresql") ? Directory.GetDirectories("/usr/lib/postgresql").Order(StringComparer.Ordinal).Select(folder => Path.Combine(folder, "bin")).LastOrDefault(folder => File.Exists(Path.Combine(folder, "initdb"))) : null;
        Assert.SkipUnless(programs is not null, "PostgreSQL is not installed; on Debian: apt-get install postgresql");
        var folder = new TemporaryFolder();
        File.SetUnixFileMode(folder.Path, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute | UnixFileMode.OtherExecute);
        Directory.CreateDirectory(folder["data"]);
        File.WriteAllText(folder["password"], Password);
        await OwnAsync(folder["data"]);
        await OwnAsync(folder["password"]);
        var server = new PostgresServer(folder, programs!, FreePort());
        await server.AsOwnerAsync("initdb", "-D", folder["data"], "-U", "exporter", "-A", "scram-sha-256", $"--pwfile={folder["password"]}", "--no-sync", "-E", "UTF8", "--locale=C");
        TestAuthority.Write(folder["data"], "ca.pem", "server.crt", "server.key");
        await OwnAsync(folder["data"]);
        await server.AsOwnerAsync("pg_ctl", "-D", folder["data"], "-w", "-l", folder["data/log"], "-o", $"-p {server.Port} -k {folder["data"]} -c listen_addresses=127.0.0.1 -c fsync=off -c ssl=on", "start");
        return server;
    }

    /// <summary>Makes an empty database.</summary>
    /// <returns>Its name.</returns>
    public async Task<string> DatabaseAsync()
    {
        var name = $"test_{Guid.NewGuid():n}";
        await AskAsync($"create database {name}", "postgres");
        return name;
    }

    /// <summary>Runs SQL, and gives what it prints: a line for each row, values with a bar between them.</summary>
    public async Task<string> AskAsync(string sql, string database)
    {
        var ended = await App.RunAsync("psql", ["-X", "-q", "-A", "-t", "-v", "ON_ERROR_STOP=1", "-h", "127.0.0.1", "-p", $"{Port}", "-U", "exporter", database, "-c", sql], _folder.Path, [("PGPASSWORD", Password), ("PGTZ", "UTC")]);
        return ended.ShouldEndWith(0).Out.Trim();
    }

    public void Dispose()
    {
        AsOwnerAsync("pg_ctl", "-D", _folder["data"], "-m", "immediate", "stop").GetAwaiter().GetResult();
        _folder.Dispose();
    }

    // The server does not run as root.
    private async Task AsOwnerAsync(string program, params string[] arguments)
    {
        string[] own = [Path.Combine(_programs, program), .. arguments];
        var start = Environment.IsPrivilegedProcess ? new ProcessStartInfo("runuser", ["-u", "postgres", "--", .. own]) : new ProcessStartInfo(own[0], arguments);
        start.WorkingDirectory = _folder["data"];
        start.RedirectStandardOutput = start.RedirectStandardError = program != "pg_ctl";
        using var process = Process.Start(start)!;
        var said = program == "pg_ctl" ? "" : await process.StandardOutput.ReadToEndAsync() + await process.StandardError.ReadToEndAsync();
        await process.WaitForExitAsync();
        process.ExitCode.ShouldBe(0, said);
    }

    private static async Task OwnAsync(string path)
    {
        if (!Environment.IsPrivilegedProcess)
            return;
        using var process = Process.Start("chown", ["-R", "postgres", path]);
        await process.WaitForExitAsync();
    }

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }
}

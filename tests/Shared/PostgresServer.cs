using System.Diagnostics;
using System.Net;
using System.Net.Sockets;

namespace Cursiva.Tests;

/// <summary>A real PostgreSQL server in a folder of its own, on a free loopback port and a socket.</summary>
internal sealed class PostgresServer : IDisposable
{
    public const string Password = "data base: 100 %";

    private readonly string _folder;
    private readonly string _programs;

    private PostgresServer(string folder, string programs, int port) => (_folder, _programs, Port) = (folder, programs, port);

    public int Port { get; }

    /// <summary>The folder of its socket.</summary>
    public string Socket => Data;

    /// <summary>The file with the authority that the server's certificate comes from.</summary>
    public string Authority => Path.Combine(Data, "ca.pem");

    private string Data => Path.Combine(_folder, "data");

    /// <summary>Starts the server, or skips the test where it is not installed.</summary>
    /// <param name="isDurable">Whether it flushes what it commits: for tests that kill it.</param>
    public static async Task<PostgresServer> StartAsync(bool isDurable = false)
    {
        var programs = Directory.Exists("/usr/lib/postgresql") ? Directory.GetDirectories("/usr/lib/postgresql").Order(StringComparer.Ordinal).Select(folder => Path.Combine(folder, "bin")).LastOrDefault(folder => File.Exists(Path.Combine(folder, "initdb"))) : null;
        Assert.SkipUnless(programs is not null, "PostgreSQL is not installed; on Debian: apt-get install postgresql");
        var folder = Directory.CreateTempSubdirectory("cursiva-test-").FullName;
        File.SetUnixFileMode(folder, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute | UnixFileMode.OtherExecute);
        var server = new PostgresServer(folder, programs!, FreePort());
        Directory.CreateDirectory(server.Data);
        var password = Path.Combine(folder, "password");
        await File.WriteAllTextAsync(password, Password);
        await OwnAsync(server.Data);
        await OwnAsync(password);
        await server.AsOwnerAsync("initdb", "-D", server.Data, "-U", "exporter", "-A", "scram-sha-256", $"--pwfile={password}", "--no-sync", "-E", "UTF8", "--locale=C");
        TestAuthority.Write(server.Data, "ca.pem", "server.crt", "server.key");
        await File.AppendAllTextAsync(Path.Combine(server.Data, "postgresql.conf"), $"\nport = {server.Port}\nunix_socket_directories = '{server.Data}'\nlisten_addresses = '127.0.0.1'\nfsync = {(isDurable ? "on" : "off")}\nssl = on\n");
        await OwnAsync(server.Data);
        await server.StartAgainAsync();
        return server;
    }

    /// <summary>Starts it once more.</summary>
    public Task StartAgainAsync() => AsOwnerAsync("pg_ctl", "-s", "-D", Data, "-w", "-l", Path.Combine(Data, "log"), "start");

    /// <summary>Ends it at once, as a crash would.</summary>
    public Task CrashAsync() => AsOwnerAsync("pg_ctl", "-D", Data, "-s", "-m", "immediate", "stop");

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
        var start = new ProcessStartInfo("psql", ["-X", "-q", "-A", "-t", "-v", "ON_ERROR_STOP=1", "-h", "127.0.0.1", "-p", $"{Port}", "-U", "exporter", database, "-c", sql])
        {
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            Environment = { ["PGPASSWORD"] = Password, ["PGTZ"] = "UTC" },
        };
        using var process = Process.Start(start)!;
        var error = process.StandardError.ReadToEndAsync();
        var said = await process.StandardOutput.ReadToEndAsync();
        await process.WaitForExitAsync();
        process.ExitCode.ShouldBe(0, await error);
        return said.Trim();
    }

    public void Dispose()
    {
        if (File.Exists(Path.Combine(Data, "postmaster.pid")))
            CrashAsync().GetAwaiter().GetResult();
        Directory.Delete(_folder, recursive: true);
    }

    // The server does not run as root.
    private async Task AsOwnerAsync(string program, params string[] arguments)
    {
        string[] own = [Path.Combine(_programs, program), .. arguments];
        var start = Environment.IsPrivilegedProcess ? new ProcessStartInfo("runuser", ["-u", "postgres", "--", .. own]) : new ProcessStartInfo(own[0], arguments);
        start.WorkingDirectory = Data;
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

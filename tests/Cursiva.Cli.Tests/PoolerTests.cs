using System.Diagnostics;
using System.Net;
using System.Net.Sockets;

namespace Cursiva.Cli.Tests;

/// <summary>A pooler in transaction mode may stand between machines and their database: nothing rests on a session.</summary>
public sealed class PoolerTests(RealServers servers) : IClassFixture<RealServers>
{
    private const string Scans = """
        tenants: { get: '/tenants?size=50', rows: /items, paging: { next-link: /next } }
        scans: { per: tenants, carry: { tenant: /id }, get: '/tenants/{tenants.id}/scans', rows: /items, paging: { next-link: /next }, parallel: 4, skip-when: [{ status: 403 }] }
        """;

    [Fact]
    public async Task A_run_of_several_machines_goes_through_a_pooler_in_transaction_mode()
    {
        Assert.SkipUnless(File.Exists("/usr/sbin/pgbouncer"), "pgbouncer is not installed; on Debian: apt-get install pgbouncer");
        using var cloud = await StandIn.StartAsync("--tenants", "60", "--client-secret", Job.Secret);
        using var job = new Job(cloud.Address, Scans, "all: { sql: select * from scans, write: all.csv }", api: "limits: { at-most: 500 per second }");
        var server = await servers.PostgresAsync();
        var machines = await Machines.StartAsync(server, job.Folder);

        // Fewer connections to the server than the machines have to the pooler: sessions are mixed.
        using var pooler = await PoolAsync(server.Port, job["pooler"]);
        (string, string?)[] Through(string machine) =>
            [.. machines.Of(machine).Where(pair => pair.Name != "CURSIVA_STATE"), ("CURSIVA_STATE", $"postgresql://jobs@127.0.0.1:{pooler.Port}/{machines.Database}?security=none&password=env:DATABASE&lease=10s&folder={job[machine]}")];
        var runs = await Task.WhenAll(Enumerable.Range(1, 3).Select(i => job.DoAsync(["run", job.Path, "--together"], null, Through($"m{i}"))));
        foreach (var run in runs)
            run.ShouldEndWith(0).Error.ShouldNotContain("does not answer");
        var together = await File.ReadAllTextAsync(job["reports/all.csv"]);
        (await job.DoAsync(["run", job.Path, "--new"], null)).ShouldEndWith(0);
        (await File.ReadAllTextAsync(job["reports/all.csv"]) == together).ShouldBeTrue();
    }

    private static async Task<Pooler> PoolAsync(int server, string folder)
    {
        Directory.CreateDirectory(folder, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute | UnixFileMode.OtherRead | UnixFileMode.OtherExecute);
        File.SetUnixFileMode(Path.GetDirectoryName(folder)!, File.GetUnixFileMode(Path.GetDirectoryName(folder)!) | UnixFileMode.OtherExecute);
        int port;
        using (var listener = new TcpListener(IPAddress.Loopback, 0))
        {
            listener.Start();
            port = ((IPEndPoint)listener.LocalEndpoint).Port;
        }

        await File.WriteAllTextAsync(Path.Combine(folder, "users"), $"\"jobs\" \"{PostgresServer.Password}\"\n");
        await File.WriteAllTextAsync(Path.Combine(folder, "pooler.ini"), $"""
            [databases]
            * = host=127.0.0.1 port={server}
            [pgbouncer]
            listen_addr = 127.0.0.1
            listen_port = {port}
            unix_socket_dir =
            auth_type = scram-sha-256
            auth_file = {folder}/users
            pool_mode = transaction
            default_pool_size = 4
            max_client_conn = 200

            """);
        foreach (var file in Directory.GetFiles(folder))
            File.SetUnixFileMode(file, File.GetUnixFileMode(file) | UnixFileMode.OtherRead);
        string[] command = ["/usr/sbin/pgbouncer", "-q", Path.Combine(folder, "pooler.ini")];
        var process = Process.Start(Environment.IsPrivilegedProcess ? new ProcessStartInfo("setpriv", ["--reuid=65534", "--regid=65534", "--clear-groups", .. command]) : new ProcessStartInfo(command[0], command[1..]))!;
        for (var tried = 0; ; tried++)
        {
            try
            {
                using var client = new TcpClient();
                await client.ConnectAsync(IPAddress.Loopback, port);
                return new Pooler(process, port);
            }
            catch (SocketException) when (tried < 100 && !process.HasExited)
            {
                await Task.Delay(50);
            }
        }
    }

    private sealed record Pooler(Process Process, int Port) : IDisposable
    {
        public void Dispose()
        {
            Process.Kill();
            Process.WaitForExit();
            Process.Dispose();
        }
    }
}

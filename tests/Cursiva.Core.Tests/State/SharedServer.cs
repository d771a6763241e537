using Cursiva.Core.State;

[assembly: AssemblyFixture(typeof(Cursiva.Core.Tests.State.SharedServer))]

namespace Cursiva.Core.Tests.State;

/// <summary>One PostgreSQL server for all tests here, started when the first one asks.</summary>
public sealed class SharedServer : IDisposable
{
    private readonly SemaphoreSlim _gate = new(1, 1);
    private PostgresServer? _server;

    /// <summary>A database of a test, with the schema of the shared state.</summary>
    internal async Task<SharedDatabase> DatabaseAsync(string lease = "30s")
    {
        await _gate.WaitAsync();
        try
        {
            _server ??= await PostgresServer.StartAsync();
        }
        finally
        {
            _gate.Release();
        }

        var shared = SharedDatabase.Parse($"postgresql://exporter@/{await _server.DatabaseAsync()}?host={_server.Socket}&lease={lease}") with { Port = _server.Port };
        await Engine(shared, TimeProvider.System).InitAsync(PostgresSchema.UsualRole, CancellationToken.None);
        return shared;
    }

    /// <summary>Breaks all connections to a database.</summary>
    internal Task CutAsync(SharedDatabase shared) => _server!.AskAsync(
        "select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()", shared.Database);

    /// <summary>The engine of a machine.</summary>
    internal static PostgresEngine Engine(SharedDatabase shared, TimeProvider clock, Action<string>? tell = null) =>
        new(shared, shared.Folder ?? "/nowhere", _ => Task.FromResult<string?>(PostgresServer.Password), clock, tell ?? (_ => { }));

    public void Dispose()
    {
        _server?.Dispose();
        _gate.Dispose();
    }
}

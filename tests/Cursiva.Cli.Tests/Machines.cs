namespace Cursiva.Cli.Tests;

/// <summary>Several machines that share a state: the program, run with a state folder for each of them and one database.</summary>
internal sealed class Machines(PostgresServer server, string database, string root, string lease)
{
    /// <summary>A key of the store, as every machine has it.</summary>
    public const string Key = "MDEyMzQ1Njc4OTAxMjM0NTY3ODkwMTIzNDU2Nzg5MDE=";

    /// <summary>Makes a database with the schema of a shared state, and a user for jobs who may do no more than that.</summary>
    public static async Task<Machines> StartAsync(PostgresServer server, string root, string lease = "3s")
    {
        var machines = new Machines(server, await server.DatabaseAsync(), root, lease);
        (await App.RunAsync(App.Cursiva, ["state", "init", "--state", machines.Address("exporter", "admin")], root, [("DATABASE", PostgresServer.Password)])).ShouldEndWith(0);
        await server.AskAsync(
            $"do $$ begin if not exists (select from pg_roles where rolname = 'jobs') then create role jobs login password '{PostgresServer.Password}'; end if; end $$; grant cursiva_jobs to jobs", machines.Database);
        return machines;
    }

    public string Database => database;

    /// <summary>The environment of a machine.</summary>
    public (string Name, string? Value)[] Of(string machine) =>
        [("CURSIVA_STATE", Address("jobs", machine)), ("CURSIVA_STORE_KEY", Key), ("DATABASE", PostgresServer.Password)];

    /// <summary>What is in the database.</summary>
    public Task<string> AskAsync(string sql) => server.AskAsync(sql, database);

    /// <summary>Waits until so many machines at least have taken something of a run, and something is still to be done.</summary>
    public async Task UntilAllWorkAsync(int machines)
    {
        for (var i = 0; int.Parse(await AskAsync("select count(distinct holder) from cursiva.queue where result is null"), System.Globalization.CultureInfo.InvariantCulture) < machines; i++)
        {
            i.ShouldBeLessThan(600, $"{machines} machines did not work on the run in a minute");
            await Task.Delay(100);
        }
    }

    private string Address(string user, string machine) =>
        $"postgresql://{user}@127.0.0.1:{server.Port}/{database}?password=env:DATABASE&trust={server.Authority}&lease={lease}&folder={root}/{machine}";
}

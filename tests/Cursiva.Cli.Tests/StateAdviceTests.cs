namespace Cursiva.Cli.Tests;

/// <summary>The commands that messages about the state tell, in a folder and in a database.</summary>
public sealed class StateAdviceTests(RealServers servers) : IClassFixture<RealServers>, IAsyncLifetime
{
    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "300");

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    [Fact]
    public async Task A_damaged_state_is_replaced_by_a_backup_or_the_job_starts_over()
    {
        using var job = new Job(_cloud.Address, Pieces.Consignments, Pieces.All);
        (await job.RunAsync()).ShouldEndWith(0);
        var unmade = (await job.DoAsync(["state", "restore", "nowhere", "--state", "new"])).ShouldEndWith(2);
        (await Advised.RunAsync(new Advised("StateBackup.cs", "is not a backup", "name a folder that cursiva state backup").CommandIn(unmade.Error) + " kept", job.Folder, job.Environment)).ShouldEndWith(0);
        Spoil(job, "consignments");
        var damaged = (await job.DoAsync(["state", "verify"])).ShouldEndWith(1);
        (await Advised.RunAsync(new Advised("StateCommand.cs", "damaged", "or start over: cursiva run").CommandIn(damaged.Error).Replace("JOB", job.Path), job.Folder, job.Environment)).ShouldEndWith(0);
        Directory.Move(job.State, job["damaged"]);
        (await Advised.RunAsync(new Advised("StateCommand.cs", "damaged", "move the state folder away and restore a backup: cursiva state restore").CommandIn(damaged.Error).Replace("FOLDER", "kept"), job.Folder, job.Environment)).ShouldEndWith(0);
        (await job.DoAsync(["state", "verify"])).ShouldEndWith(0);
    }

    [Fact]
    public async Task A_landing_that_cannot_be_folded_is_named_by_the_command()
    {
        using var job = new Job(_cloud.Address, "vehicles: { get: /vehicles, query: { since: '{mark}' }, rows: /items, paging: { next-link: /links/next }, key: /id, incremental: { by: /changed_at } }", "all: { sql: select * from vehicles, write: all.csv }", top: "retain: 20");
        for (var run = 0; run < 12; run++)
        {
            (await job.RunAsync()).ShouldEndWith(0);
            await _cloud.NextDayAsync();
        }

        Spoil(job, "vehicles");
        job.Yaml = job.Yaml.Replace("retain: 20", "retain: 1");
        job.Save();
        var refused = (await job.DoAsync(["state", "fold", job.Path])).ShouldEndWith(1);
        (await Advised.RunAsync(new Advised("StateCommand.cs", "cannot be folded", "find the damage: cursiva state verify").CommandIn(refused.Error), job.Folder, job.Environment)).ShouldEndWith(1).Out.ShouldContain("of pull 'vehicles' is damaged");
    }

    [Fact]
    public async Task A_database_gets_its_schema_by_the_commands_that_are_told()
    {
        var server = await servers.PostgresAsync();
        using var job = new Job(_cloud.Address, Pieces.Consignments, Pieces.All);
        await Machines.StartAsync(server, job.Folder);
        var (first, second) = (await server.DatabaseAsync(), await server.DatabaseAsync());
        string Address(string user, string database) => $"postgresql://{user}@127.0.0.1:{server.Port}/{database}?password=env:DATABASE&trust={server.Authority}&folder={job["m1"]}";
        (string, string?)[] known = [.. job.Environment, ("CURSIVA_STATE", null), ("DATABASE", PostgresServer.Password)];
        Task<Ended> DoAsync(string command) => Advised.RunAsync(command, job.Folder, known);

        var none = (await DoAsync($"cursiva run {job.Path} --state '{Address("jobs", first)}'")).ShouldEndWith(1);
        var made = new Advised("PostgresSchema.cs", "the database has no schema for the shared state", "create it once, as a user who may create schemas: cursiva state init").CommandIn(none.Error);
        (await DoAsync(made.Replace("postgresql://ADMIN@HOST/DATABASE", $"'{Address("exporter", first)}'"))).ShouldEndWith(0);
        (await DoAsync($"cursiva run {job.Path} --state '{Address("jobs", first)}'")).ShouldEndWith(0);

        var refused = (await DoAsync($"cursiva state init --state '{Address("jobs", second)}'")).ShouldEndWith(1);
        var printed = (await DoAsync(new Advised("PostgresSchema.cs", "the schema cannot be created", "ask an administrator to run the output of cursiva state init --print").CommandIn(refused.Error))).ShouldEndWith(0);
        await server.AskAsync(printed.Out, second);
        (await DoAsync($"cursiva run {job.Path} --new --state '{Address("jobs", second)}'")).ShouldEndWith(0);
    }

    private static void Spoil(Job job, string pull)
    {
        var segment = Directory.GetFiles(job[$"state/jobs/late/runs/000001/landing/{pull}"]).First();
        var bytes = File.ReadAllBytes(segment);
        bytes[bytes.Length / 2] ^= 1;
        File.WriteAllBytes(segment, bytes);
    }
}

using Cursiva.Core.Files;
using Cursiva.Core.Landing;
using Cursiva.Core.State;

namespace Cursiva.Core.Tests.State;

public sealed class PostgresLandingsTests(SharedServer server) : SharedLandingContract
{
    private SharedDatabase _shared = null!;

    protected override async Task<IState> OpenAsync()
    {
        _shared = await server.DatabaseAsync("2s");
        return await SharedServer.Engine(_shared, TimeProvider.System).OpenAsync(default);
    }

    [Fact]
    public async Task A_machine_that_was_asleep_adds_nothing_to_what_another_one_took_over()
    {
        var clock = new Microsoft.Extensions.Time.Testing.FakeTimeProvider();
        await using var sleeper = await SharedServer.Engine(_shared, clock).OpenAsync(default);
        var lease = (await sleeper.Leases.TryTakeAsync("job/x", "the sleeper", null, default)).Lease!;
        await using var landing = new RunLanding(new Disk(), _folder["asleep"], clock, shared: new SharedLanding(sleeper.Under(lease).Landings, Name));
        var pull = landing.Open("p");
        pull.Append("", "{\"page\":1}\n"u8, 1, "more");
        await landing.CommitAsync(default);

        await using var next = await State.Leases.TakeAsync("job/x", "the next one", null, TimeProvider.System, default);
        await BringAsync("taken-over");
        pull.Append("", "{\"page\":2}\n"u8, 1, "more");
        await Should.ThrowAsync<LeaseLostException>(landing.CommitAsync(default));
        await using (var over = new RunLanding(new Disk(), _folder["taken-over"], TimeProvider.System, shared: new SharedLanding(State.Under(next).Landings, Name)))
        {
            over.Open("p").Append("", "{\"page\":\"two\"}\n"u8, 1, null);
            await over.CommitAsync(default);
        }

        Should.Throw<LeaseLostException>(() => pull.Append("", "{\"page\":3}\n"u8, 1, null));
        await BringAsync("there");
        Rows("there", "p").ShouldBe("{\"page\":1}\n{\"page\":\"two\"}\n");
        clock.Advance(TimeSpan.FromSeconds(5));
    }

    [Fact]
    public async Task Files_that_other_machines_need_are_brought_whole_and_removed()
    {
        var (here, there) = (_folder["m1"], _folder["m2"]);
        var large = new byte[2_500_000];
        Random.Shared.NextBytes(large);
        Directory.CreateDirectory(Path.Combine(here, "jobs/x/outbox/mail-1"));
        await File.WriteAllBytesAsync(Path.Combine(here, "jobs/x/outbox/mail-1/0000"), large);
        await File.WriteAllBytesAsync(Path.Combine(here, "jobs/x/outbox/mail-1/0001"), []);
        await using var one = await SharedServer.Engine(_shared with { Folder = here }, TimeProvider.System).OpenAsync(default);
        await using var other = await SharedServer.Engine(_shared with { Folder = there }, TimeProvider.System).OpenAsync(default);
        await one.Files.PutAsync(Path.Combine(here, "jobs/x/outbox/mail-1"), default);
        await one.Files.PutAsync(Path.Combine(here, "jobs/x/outbox/mail-1"), default);
        await other.Files.BringAsync(Path.Combine(there, "jobs/x/outbox/mail-1"), default);
        (await File.ReadAllBytesAsync(Path.Combine(there, "jobs/x/outbox/mail-1/0000"))).ShouldBe(large);
        new FileInfo(Path.Combine(there, "jobs/x/outbox/mail-1/0001")).Length.ShouldBe(0);
        await other.Files.RemoveAsync(Path.Combine(there, "jobs/x/outbox/mail-1"), default);
        Directory.Delete(there, recursive: true);
        await other.Files.BringAsync(Path.Combine(there, "jobs/x/outbox/mail-1"), default);
        Directory.Exists(there).ShouldBeFalse();
    }
}

using Cursiva.Core.Files;
using Cursiva.Core.State;
using Microsoft.Extensions.Time.Testing;

namespace Cursiva.Core.Tests.State;

public sealed class RunQueueTests : StrandQueueContract
{
    private readonly TemporaryFolder _folder = new();
    private readonly FakeTimeProvider _clock = new();

    protected override Task<IState> OpenAsync() => new SqliteEngine(new StateFolder(_folder["state"]), new Disk(), _clock).ForTogether().OpenAsync(default);

    protected override Task PassAsync(double leases)
    {
        _clock.Advance(State.Queue.Lease * leases);
        return Task.CompletedTask;
    }

    [Fact]
    public async Task What_a_run_has_shared_goes_with_it_and_whoever_comes_late_finds_nothing()
    {
        await State.Queue.OfferAsync(Name, [(Strand("a"), false)], default);
        var file = _folder["state/jobs/x/runs/000001/together.db"];
        File.GetUnixFileMode(file).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);
        (await State.Landings.ListAsync("jobs/x/runs/", default)).ShouldBe([Name]);
        State.Landings.IsShared(Name).ShouldBeTrue();
        await State.Landings.ReleaseAsync(Name, default);
        Directory.GetFiles(Path.GetDirectoryName(file)!).ShouldBeEmpty();
        State.Landings.IsShared(Name).ShouldBeFalse();
        (await TakeAsync(One, 1)).ShouldBeEmpty();
        (await State.Landings.SumsAsync(Name, default)).ShouldBeEmpty();
        File.Exists(file).ShouldBeFalse();
    }

    public override async ValueTask DisposeAsync()
    {
        await base.DisposeAsync();
        _folder.Dispose();
    }
}

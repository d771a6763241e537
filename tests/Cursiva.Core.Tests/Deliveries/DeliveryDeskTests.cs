using Cursiva.Core.Deliveries;
using Cursiva.Core.Files;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Reports;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;
using Cursiva.Core.Tests.Http;
using Cursiva.Core.Writes;
using Microsoft.Extensions.Time.Testing;

namespace Cursiva.Core.Tests.Deliveries;

/// <summary>The ledger and what it sends, stopped at every step.</summary>
public sealed class DeliveryDeskTests : IAsyncLifetime
{
    private readonly TemporaryFolder _folder = new();
    private readonly FakeTimeProvider _clock = new(new DateTimeOffset(2026, 3, 2, 5, 0, 0, TimeSpan.Zero));
    private IState _state = null!;

    public ValueTask InitializeAsync()
    {
        _state = SqliteState.Open(_folder["state.db"], TimeProvider.System);
        Directory.CreateDirectory(_folder["reports"]);
        _folder.Write("reports/late.csv", "a\r\n1\r\n");
        _folder.Write("reports/late.xlsx", "a workbook");
        return ValueTask.CompletedTask;
    }

    public async ValueTask DisposeAsync()
    {
        await _state.DisposeAsync();
        _folder.Dispose();
    }

    [Fact]
    public async Task A_process_that_ends_at_any_write_of_the_ledger_delivers_all_the_same()
    {
        for (var writes = 0; ; writes++)
        {
            var target = $"share-{writes}";
            var job = Read($"share: {{ report: late, folder: {{ path: {target} }} }}", $"job-{writes}");
            var dying = new DyingState(_state, writes);
            var died = false;
            try
            {
                var desk = Desk(job, dying);
                await desk.EnterAsync(News(1), CancellationToken.None);
                await desk.SendAsync(CancellationToken.None);
            }
            catch (DyingState.DeadException)
            {
                died = true;
            }

            // The next start enters the run again, if it was not done, and sends what is there.
            var next = Desk(job, _state);
            await next.EnterAsync(News(1), CancellationToken.None);
            await next.SendAsync(CancellationToken.None);
            File.ReadAllText(_folder[$"{target}/late.csv"]).ShouldBe("a\r\n1\r\n");
            File.ReadAllText(_folder[$"{target}/late.xlsx"]).ShouldBe("a workbook");
            (await Book(job).EntriesAsync(CancellationToken.None)).ShouldHaveSingleItem().Phase.ShouldBe(LedgerPhase.Sent, $"after {writes} writes");
            Directory.Exists(_folder[$"outbox/{job.Name}/share-1"]).ShouldBeFalse();
            if (!died)
            {
                writes.ShouldBe(3); // ready, sending, sent
                return;
            }
        }
    }

    [Fact]
    public async Task What_may_have_left_is_looked_up_where_it_can_be()
    {
        var job = Read("share: { report: late, folder: { path: share } }");
        var desk = Desk(job, _state);
        await desk.EnterAsync(News(1), CancellationToken.None);
        var book = Book(job);
        await book.MoveAsync((await book.FindAsync("share-1", CancellationToken.None))!, LedgerPhase.Sending);
        Directory.CreateDirectory(_folder["share"]);
        File.Copy(_folder["reports/late.csv"], _folder["share/late.csv"]);
        File.Copy(_folder["reports/late.xlsx"], _folder["share/late.xlsx"]);
        var entry = (await desk.SendAsync(CancellationToken.None)).ShouldHaveSingleItem();
        (entry.Phase, entry.Said, entry.Attempts).ShouldBe((LedgerPhase.Sent, "looked up: it had arrived", 1));
    }

    [Theory]
    [InlineData("hold", LedgerPhase.InDoubt)]
    [InlineData("repeat", LedgerPhase.Ready)]
    public async Task A_mail_that_may_have_left_is_held_or_sent_again(string doubt, LedgerPhase phase)
    {
        var job = Read($"desk: {{ report: late, when-in-doubt: {doubt}, mail: {{ server: 127.0.0.1:1, security: none, from: a@x.example, to: b@x.example }} }}");
        var desk = Desk(job, _state);
        await desk.EnterAsync(News(1), CancellationToken.None);
        var book = Book(job);
        await book.MoveAsync((await book.FindAsync("desk-1", CancellationToken.None))!, LedgerPhase.Sending);

        // The port refuses connections, so the entry is still ready afterwards.
        (await desk.SendAsync(CancellationToken.None)).ShouldHaveSingleItem().Phase.ShouldBe(phase);
        (await Desk(job, _state).SendAsync(CancellationToken.None)).ShouldHaveSingleItem().Phase.ShouldBe(phase);
    }

    [Fact]
    public async Task What_is_not_delivered_in_time_is_given_up_and_told_once()
    {
        var job = Read("desk: { report: late, deliver-within: 4h, mail: { server: 127.0.0.1:1, security: none, from: a@x.example, to: b@x.example } }");
        await Desk(job, _state).EnterAsync(News(1), CancellationToken.None);
        _clock.Advance(TimeSpan.FromHours(4.1));
        var given = (await Desk(job, _state).SendAsync(CancellationToken.None)).ShouldHaveSingleItem();
        (given.Phase, given.Said).ShouldBe((LedgerPhase.GivenUp, "not delivered within 4 h 00 min"));
        LedgerWords.Objection([given])!.What.ShouldContain("desk-1 is given up");
        (await Desk(job, _state).SendAsync(CancellationToken.None)).ShouldBeEmpty();
    }

    [Fact]
    public async Task A_delivery_that_the_job_has_no_more_is_told_and_stays()
    {
        var job = Read("desk: { report: late, folder: { path: share } }");
        await Desk(job, _state).EnterAsync(News(1), CancellationToken.None);
        var other = Read("other: { report: late, folder: { path: share } }");
        (await Desk(other, _state).SendAsync(CancellationToken.None)).ShouldHaveSingleItem().Said.ShouldBe("the job no longer has a delivery 'desk'");
        Directory.Exists(_folder["share"]).ShouldBeFalse();
    }

    [Fact]
    public async Task A_mail_has_the_same_message_id_whenever_it_is_composed_and_another_for_another_run()
    {
        var job = Read("desk: { report: late, mail: { server: 127.0.0.1:1, security: none, from: a@x.example, to: b@x.example } }");
        var ids = new List<string>();
        foreach (var run in new[] { 1, 1, 2 })
        {
            await Desk(job, _state).EnterAsync(News(run), CancellationToken.None);
            ids.Add(MimeKit.MimeMessage.Load(_folder[$"outbox/job/desk-{run}/0000"]).MessageId!);
        }

        ids[0].ShouldBe(ids[1]);
        ids[2].ShouldNotBe(ids[0]);
        ids[0].ShouldEndWith("@x.example");
    }

    [Fact]
    public async Task The_ledger_forgets_the_oldest_entries_that_are_done_with_and_no_other()
    {
        var job = Read("share: { report: late, folder: { path: share } }");
        var book = Book(job);
        for (var run = 1; run <= 220; run++)
            await book.AddAsync(new LedgerEntry($"share-{run}", "share", run, "share", "", [], _clock.GetUtcNow()) { Phase = run is 3 or 5 ? LedgerPhase.Ready : LedgerPhase.Sent }, CancellationToken.None);
        await book.PruneAsync(CancellationToken.None);
        var left = await book.EntriesAsync(CancellationToken.None);
        left.Count.ShouldBe(203); // the newest, too, which says what has changed since
        left.Take(3).Select(entry => entry.Run).ShouldBe([3, 5, 20]);
    }

    private LedgerBook Book(Job job) => new(_state, job.Name, _clock);

    private DeliveryDesk Desk(Job job, IState state)
    {
        var services = SignInServices.Of(state, new StateFolder(_folder.Path), new Disk(), new Redactor(), _ => null, _folder.Path, _clock, () => 0, new SilentWatch(), new SilentWatch());
        return new DeliveryDesk(job, new LedgerBook(state, job.Name, _clock), new Disk(), new Outbox(new Disk(), _folder[$"outbox/{job.Name}"]), new Carriers(job.Name, services, _ => null, new FileDesk(job.Name, job.Inputs, state, job.Name, services, (_, _, _) => throw new InvalidOperationException(), _ => { })), _clock, _ => { });
    }

    private RunNews News(int run) => new("The job", run, _clock.GetUtcNow(), name => name == "run.number" ? run.ToString() : "2026-03-02", _folder["reports"], [new WrittenFile("late", _folder["reports/late.csv"], 6, 1), new WrittenFile("late", _folder["reports/late.xlsx"], 10, 1)], null);

    private Job Read(string delivery, string name = "job") => JobReader.Read(_folder.Write($"{name}.cursiva.yaml", $"cursiva: 1\napis: {{ x: {{ base: https://x.example }} }}\npulls: {{ p: {{ get: /, rows: '' }} }}\nreports: {{ late: {{ sql: select 1, write: [late.csv, late.xlsx] }} }}\ndeliveries:\n  {delivery}\n"), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);
}

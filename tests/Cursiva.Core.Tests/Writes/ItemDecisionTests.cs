using Cursiva.Core.Ledger;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Tests.Writes;

/// <summary>Each item of a write can be decided alone; its entry follows.</summary>
public sealed class ItemDecisionTests : IAsyncDisposable
{
    private const string Create = "create: { post: /documents, body: { title: \"{row.name}\" } }";
    private const string Three = """[{"id":"a","name":"one"},{"id":"b/c","name":"two"},{"id":"d","name":"three"}]""";
    private readonly WriteFixture _at = new();

    public ValueTask DisposeAsync() => _at.DisposeAsync();

    [Fact]
    public async Task A_write_is_in_doubt_as_long_as_one_of_its_items_is()
    {
        _at.Office.AnswersLost = 3;
        (await _at.RunAsync(Create, Three))!.Phase.ShouldBe(LedgerPhase.InDoubt);
        (await _at.DecideItemAsync("documents-1/a", LedgerPhase.Sent)).ShouldSatisfyAllConditions(entry => entry.Phase.ShouldBe(LedgerPhase.InDoubt), entry => entry.Said.ShouldBe("a decided by hand, 2 in doubt"));
        (await _at.DecideItemAsync("documents-1/b/c", LedgerPhase.GivenUp)).Phase.ShouldBe(LedgerPhase.InDoubt);
        (await _at.DecideItemAsync("documents-1/[\"d\"]", LedgerPhase.Ready)).Phase.ShouldBe(LedgerPhase.Ready);
        (await _at.RunAsync(Create, Three))!.Phase.ShouldBe(LedgerPhase.Sent);
        _at.Office.Documents.Count.ShouldBe(4, "the third alone was sent again");
        _at.Rows.Select(row => row.State).ShouldBe(["sent", "skipped", "sent"]);
    }

    [Fact]
    public async Task The_last_decision_ends_the_write()
    {
        _at.Office.AnswersLost = 1;
        await _at.RunAsync(Create, """[{"id":"a","name":"one"}]""");
        (await _at.DecideItemAsync("documents-1/a", LedgerPhase.Sent)).Phase.ShouldBe(LedgerPhase.Sent);
        (await _at.RunAsync(Create, """[{"id":"a","name":"one"}]""")).ShouldBeNull("nothing is left to do");
        _at.Office.Documents.Count.ShouldBe(1);
    }

    [Theory]
    [InlineData("documents-1/x", "the write documents-1 has no item 'x'")]
    [InlineData("documents-1/a", "there is nothing to decide about documents-1/a: it is sent")]
    public async Task What_cannot_be_decided_is_told(string name, string what)
    {
        await _at.RunAsync(Create, """[{"id":"a","name":"one"}]""");
        var refusal = (await Should.ThrowAsync<RefusedException>(() => _at.DecideItemAsync(name, LedgerPhase.Sent))).Refusal;
        refusal.What.ShouldBe(what);
        refusal.NextStep.ShouldBe("cursiva ledger JOB --items documents-1");
    }
}

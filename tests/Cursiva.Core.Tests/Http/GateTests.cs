using Cursiva.Core.Http;
using Cursiva.Core.Refusals;
using Microsoft.Extensions.Time.Testing;

namespace Cursiva.Core.Tests.Http;

public sealed class GateTests
{
    [Fact]
    public async Task A_declared_number_is_never_passed_and_whoever_waits_first_goes_first()
    {
        var gate = new Gate(2);
        var first = await gate.EnterAsync(CancellationToken.None);
        await gate.EnterAsync(CancellationToken.None);
        var third = gate.EnterAsync(CancellationToken.None);
        var fourth = gate.EnterAsync(CancellationToken.None);
        third.IsCompleted.ShouldBeFalse();
        gate.Leave(first, true);
        await third;
        fourth.IsCompleted.ShouldBeFalse();
        gate.Limit.ShouldBe(2);
    }

    [Fact]
    public async Task An_undeclared_number_doubles_until_the_API_pushes_back_for_the_first_time()
    {
        var gate = new Gate(null);
        gate.Limit.ShouldBe(8);
        for (var round = 0; round < 4; round++)
        {
            foreach (var entrance in await FillAsync(gate))
                gate.Leave(entrance, false);
        }

        gate.Limit.ShouldBe(12, "only answers while the gate is full count: of a round that ends together, the first");
        var all = await FillAsync(gate);
        gate.Leave(all[0], true);
        gate.Limit.ShouldBe(6);
    }

    [Fact]
    public async Task An_undeclared_number_grows_by_one_a_round_and_is_halved_once_for_all_that_were_pushed_back_together()
    {
        var gate = new Gate(null);
        var first = await FillAsync(gate);
        first.ForEach(entrance => gate.Leave(entrance, null));
        gate.Leave(await gate.EnterAsync(CancellationToken.None), true);
        gate.Limit.ShouldBe(4);
        for (var round = 0; round < 20; round++)
        {
            var inside = await FillAsync(gate);
            gate.Leave(inside[0], false);
            inside.Skip(1).ToList().ForEach(entrance => gate.Leave(entrance, null));
        }

        gate.Limit.ShouldBe(7, "20 answers while the gate was full are a little more than three rounds");
        foreach (var entrance in await FillAsync(gate))
            gate.Leave(entrance, true);
        gate.Limit.ShouldBe(3);
    }

    [Fact]
    public async Task Whoever_gives_up_waiting_takes_no_place()
    {
        var gate = new Gate(1);
        var first = await gate.EnterAsync(CancellationToken.None);
        using var impatient = new CancellationTokenSource();
        var second = gate.EnterAsync(impatient.Token);
        var third = gate.EnterAsync(CancellationToken.None);
        await impatient.CancelAsync();
        await Should.ThrowAsync<OperationCanceledException>(second);
        gate.Leave(first, null);
        await third;
    }

    [Fact]
    public async Task A_breaker_lets_one_request_try_and_its_pauses_grow_until_it_succeeds()
    {
        var clock = new FakeTimeProvider();
        using var breaker = new Breaker(clock);
        for (var i = 0; i < Breaker.Threshold; i++)
        {
            (await breaker.PassAsync(_ => { }, CancellationToken.None)).ShouldBeNull();
            breaker.Failed();
        }

        var waits = new List<TimeSpan>();
        var trial = breaker.PassAsync(waits.Add, CancellationToken.None);
        var other = breaker.PassAsync(waits.Add, CancellationToken.None);
        trial.IsCompleted.ShouldBeFalse();
        clock.Advance(TimeSpan.FromSeconds(1));
        var turn = await trial;
        breaker.Failed();
        turn!.Dispose();
        for (var tries = 0; tries < 1000 && waits.Count < 2; tries++)
            await Task.Delay(5, CancellationToken.None);
        clock.Advance(TimeSpan.FromSeconds(1));
        other.IsCompleted.ShouldBeFalse();
        clock.Advance(TimeSpan.FromSeconds(1));
        using var again = await other;
        waits.ShouldBe([TimeSpan.FromSeconds(1), TimeSpan.FromSeconds(2)]);
        breaker.HasGivenUp(2).ShouldBeTrue();
        breaker.Succeeded();
        breaker.HasGivenUp(1).ShouldBeFalse();
        (await breaker.PassAsync(waits.Add, CancellationToken.None)).ShouldBeNull();
    }

    [Fact]
    public void A_budget_of_retries_is_refilled_by_what_goes_well()
    {
        var budget = new RetryBudget();
        var spent = 0;
        while (budget.TrySpend())
            spent++;
        spent.ShouldBe(100);
        budget.Succeeded();
        budget.TrySpend().ShouldBeFalse();
        budget.Succeeded();
        budget.TrySpend().ShouldBeTrue();
    }

    [Fact]
    public void A_budget_of_requests_and_time_ends_a_run_so_that_it_can_be_gone_on_with()
    {
        var clock = new FakeTimeProvider();
        var budget = new Budget(2, clock.GetUtcNow() + TimeSpan.FromMinutes(1), clock);
        budget.Spend();
        budget.Spend();
        Should.Throw<RefusedException>(budget.Spend).Refusal.Outcome.ShouldBe(Outcome.StoppedResumable);
        budget.CheckWait(TimeSpan.FromSeconds(59), "a limit");
        Should.Throw<RefusedException>(() => budget.CheckWait(TimeSpan.FromSeconds(61), "a limit")).Refusal.What.ShouldContain("the wait of 1 min 01 s for a limit would pass the deadline");
    }

    private static async Task<List<long>> FillAsync(Gate gate)
    {
        var inside = new List<long>();
        for (var i = gate.Limit; i > 0; i--)
            inside.Add(await gate.EnterAsync(CancellationToken.None));
        return inside;
    }
}

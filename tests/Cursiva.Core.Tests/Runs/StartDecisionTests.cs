using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.Tests.Tables;

namespace Cursiva.Core.Tests.Runs;

public sealed class StartDecisionTests
{
    private static readonly DateTimeOffset s_monday = new(2026, 11, 23, 23, 0, 0, TimeSpan.Zero);

    [Fact]
    public void The_first_run_is_new() => Decide(StartChoice.Either, null).Reason.ShouldBe("the first run of this job");

    [Fact]
    public void A_stopped_run_is_gone_on_with()
    {
        var decision = Decide(StartChoice.Either, Stopped() with { Note = "the API is in trouble" });
        decision.GoOn!.Number.ShouldBe(3);
        decision.Reason.ShouldBe("run 3, begun 1 h 00 min ago, ended: the API is in trouble");
    }

    [Fact]
    public void A_run_that_was_killed_is_gone_on_with() => Decide(StartChoice.Either, Stopped() with { Phase = RunPhase.Running }).Reason.ShouldEndWith("was cut short");

    [Fact]
    public void A_finished_run_is_followed_by_a_new_one() => Decide(StartChoice.Either, Stopped() with { Phase = RunPhase.Done }).GoOn.ShouldBeNull();

    [Fact]
    public void An_old_run_is_not_gone_on_with_unless_that_is_insisted_on()
    {
        Decide(StartChoice.Either, Stopped(), hours: 7).Reason.ShouldBe("run 3 is older than resume-within (6 h 00 min)");
        Decide(StartChoice.GoOn, Stopped(), hours: 7).GoOn.ShouldNotBeNull();
    }

    [Fact]
    public void Another_landing_format_is_never_gone_on_with()
    {
        Decide(StartChoice.Either, Stopped() with { LandingFormat = 0 }).GoOn.ShouldBeNull();
        Decide(StartChoice.GoOn, Stopped() with { LandingFormat = 0 }).Possible.ShouldBeFalse();
    }

    [Fact]
    public void A_job_of_which_every_pull_has_changed_is_never_gone_on_with()
    {
        Decide(StartChoice.Either, Stopped(), prints: ["a=2", "b=2"]).Reason.ShouldBe("every pull of the job has changed since run 3");
        Decide(StartChoice.GoOn, Stopped(), prints: ["a=2", "b=2"]).Possible.ShouldBeFalse();
    }

    [Fact]
    public void Pulls_that_are_as_they_were_keep_their_rows()
    {
        var decision = Decide(StartChoice.Either, Stopped(), prints: ["a=1", "b=2", "c=1"]);
        decision.GoOn.ShouldNotBeNull();
        decision.Kept.ShouldBe(["a"]);
        decision.Reason.ShouldEndWith("changed since, and fetched again: b, c");
    }

    [Fact]
    public void A_run_that_lacks_nothing_but_its_reports_is_not_stayed_with()
    {
        var failed = Stopped() with { Outcome = (int)Outcome.ReportFailed, LandedAt = s_monday };
        Decide(StartChoice.Either, failed).GoOn.ShouldBeNull();
        Decide(StartChoice.Either, failed).Reason.ShouldContain("cursiva report");
        Decide(StartChoice.GoOn, failed).GoOn.ShouldNotBeNull();
        Decide(StartChoice.Either, failed with { LandedAt = null }).GoOn.ShouldNotBeNull();
    }

    [Fact]
    public void Tuesdays_run_does_not_finish_Mondays()
    {
        Decide(StartChoice.Either, Stopped(), now: "tuesday").Reason.ShouldBe("run 3 is for an earlier period");
        Decide(StartChoice.GoOn, Stopped(), now: "tuesday").GoOn.ShouldNotBeNull();
    }

    [Fact]
    public void New_means_new_and_going_on_needs_something_to_go_on_with()
    {
        Decide(StartChoice.New, Stopped()).GoOn.ShouldBeNull();
        Decide(StartChoice.GoOn, null).Possible.ShouldBeFalse();
        Decide(StartChoice.GoOn, Stopped() with { Phase = RunPhase.Done }).Possible.ShouldBeFalse();
    }

    private static RunRecord Stopped() => new(3, s_monday, "same", RunLanding.Format) { Phase = RunPhase.Stopped, PullPrints = new() { ["a"] = "1", ["b"] = "1" } };

    private static StartDecision Decide(StartChoice choice, RunRecord? last, string now = "same", double hours = 1, string[]? prints = null) =>
        StartDecision.Decide(choice, last, Job(now, prints ?? ["a=1", "b=1"]), Job("same", prints ?? ["a=1", "b=1"]), s_monday.AddHours(hours));

    private static Job Job(string period, string[] prints) => new(
        "job", "/job.cursiva.yaml", "/", "job", TimeZoneInfo.Utc, Template.TryParse("out", out _)!, Core.Jobs.Job.DefaultResumeWithin, [],
        new Dictionary<string, DeclaredIdentity>(), new Dictionary<string, Api>(), [.. prints.Select(print => ReportFixture.Declared(print.Split('=')[0], null))], [], period)
    {
        PullPrints = prints.ToDictionary(print => print.Split('=')[0], print => print.Split('=')[1]),
    };
}

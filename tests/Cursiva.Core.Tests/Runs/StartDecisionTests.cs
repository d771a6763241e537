using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Runs;

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
        decision.Reason.ShouldBe("run 3, begun 1 h 00 min ago, ended so: the API is in trouble");
    }

    [Fact]
    public void A_run_that_was_killed_is_gone_on_with() => Decide(StartChoice.Either, Stopped() with { State = RunState.Running }).Reason.ShouldEndWith("was cut short");

    [Fact]
    public void A_finished_run_is_followed_by_a_new_one() => Decide(StartChoice.Either, Stopped() with { State = RunState.Done }).GoOn.ShouldBeNull();

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
    public void A_changed_job_is_never_gone_on_with()
    {
        Decide(StartChoice.Either, Stopped(), now: "changed", then: "changed").Reason.ShouldBe("the job or its inputs have changed since run 3");
        Decide(StartChoice.GoOn, Stopped(), now: "changed", then: "changed").Possible.ShouldBeFalse();
    }

    [Fact]
    public void Tuesdays_run_does_not_finish_Mondays()
    {
        Decide(StartChoice.Either, Stopped(), now: "tuesday", then: "same").Reason.ShouldBe("run 3 is about an earlier period");
        Decide(StartChoice.GoOn, Stopped(), now: "tuesday", then: "same").GoOn.ShouldNotBeNull();
    }

    [Fact]
    public void New_means_new_and_going_on_needs_something_to_go_on_with()
    {
        Decide(StartChoice.New, Stopped()).GoOn.ShouldBeNull();
        Decide(StartChoice.GoOn, null).Possible.ShouldBeFalse();
        Decide(StartChoice.GoOn, Stopped() with { State = RunState.Done }).Possible.ShouldBeFalse();
    }

    private static RunRecord Stopped() => new(3, s_monday, "same", RunLanding.Format) { State = RunState.Stopped };

    private static StartDecision Decide(StartChoice choice, RunRecord? last, string now = "same", string then = "same", double hours = 1) =>
        StartDecision.Decide(choice, last, Job(now), Job(then), s_monday.AddHours(hours));

    private static Job Job(string fingerprint) => new(
        "job", "/job.cursiva.yaml", "/", "job", TimeZoneInfo.Utc, Template.TryParse("out", out _)!, Core.Jobs.Job.DefaultResumeWithin, [],
        new Dictionary<string, DeclaredIdentity>(), new Dictionary<string, Api>(), [], [], fingerprint);
}

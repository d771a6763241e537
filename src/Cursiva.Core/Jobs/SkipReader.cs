using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the refusals that a job allows.</summary>
internal sealed class SkipReader(Reading reading)
{
    public IReadOnlyList<SkipRule> Read(SectionReader section) => [.. section.Insides(PullKeys.SkipWhen, reading).Select(ReadSkip)];

    private SkipRule ReadSkip(SectionReader rule)
    {
        var (status, signIn) = (rule.Whole(PullKeys.SkipStatus), rule.Text(PullKeys.SkipSignIn));
        if (rule.Has(PullKeys.SkipStatus) == rule.Has(PullKeys.SkipSignIn))
            reading.Add(
                rule.Place,
                $"{rule.Title} has {(signIn is null ? "neither status nor sign-in" : "both status and sign-in")}",
                "give one: the status of an answer, or the error of a refused sign-in");
        return new SkipRule(
            status, rule.Pointer(PullKeys.SkipAt), rule.Text(PullKeys.SkipIs) ?? Probe.Anything, signIn, rule.Text(PullKeys.SkipBecause));
    }
}

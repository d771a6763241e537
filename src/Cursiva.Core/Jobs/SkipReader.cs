using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the refusals that a job allows.</summary>
internal sealed class SkipReader(Reading reading)
{
    public IReadOnlyList<SkipRule> Read(SectionReader section) => [.. section.Insides(PullKeys.SkipWhen, reading).Select(ReadSkip)];

    private SkipRule ReadSkip(SectionReader rule)
    {
        var (status, signIn) = (rule.Whole(StrandKeys.SkipStatus), rule.Text(StrandKeys.SkipSignIn));
        if (rule.Has(StrandKeys.SkipStatus) == rule.Has(StrandKeys.SkipSignIn))
            reading.Add(
                rule.Place,
                $"{rule.Title} has {(signIn is null ? "neither status nor sign-in" : "both status and sign-in")}",
                "give one: the status of an answer, or the error of a refused sign-in");
        return new SkipRule(
            status, rule.Pointer(StrandKeys.SkipAt), rule.Text(StrandKeys.SkipIs) ?? Probe.Anything, signIn, rule.Text(StrandKeys.SkipBecause));
    }
}

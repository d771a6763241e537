using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>Fetches one strand of a pull, from where it stands to its end.</summary>
internal sealed class StrandFetch(PullContext context)
{
    private Pull Pull => context.Pull;

    private PullServices Services => context.Services;

    // What an API says of one tenant, depot or document, and not of all of them.
    private static bool MayBeOfOneStrand(int status) => status is 402 or 403 or 404 or 409 or 410 or 422 or 423 or 424 or 451;

    /// <summary>What sends the requests of a strand, and lands its pages.</summary>
    /// <exception cref="RefusedException">Signing in was refused, or a secret is missing.</exception>
    public async Task<StrandRun> OpenAsync(Strand strand, CancellationToken cancel)
    {
        string? Value(string name) => strand.Values.Text(name) ?? Services.Inputs.GetValueOrDefault(name);
        var client = await Services.Client(Pull, Value, cancel);
        var kept = Services.Past.Mark(Pull, strand.Values.ToJson());
        var mark = Pull.Incremental is { } incremental
            ? (kept is null ? incremental.First : Marks.From(kept, incremental.Overlap))
            : null;
        var delta = Pull.Paging.Delta is null || context.WasRestarted(strand) ? null : kept;
        var noted = Submission.Noted(context.Landing.Last(strand.Key)?.Next) is { } id
            ? strand with { Values = strand.Values.With(ExportSteps.Submission, id) }
            : strand;
        var requests = await StrandRequests.OpenAsync(
            Pull, client, Services.Inputs, noted, mark, delta, Services.Secrets, context.Schemas, cancel);
        return new StrandRun(context, strand, client, requests) { AsksForChanges = delta is not null };
    }

    /// <summary>Lands whatever is missing of a strand.</summary>
    /// <returns>Why it was skipped; null where it was not.</returns>
    /// <exception cref="RefusedException">The API refused it.</exception>
    /// <exception cref="StrandRestart">Its place is not known any more.</exception>
    public async Task<LandedSkip?> RunAsync(Strand strand, CancellationToken cancel)
    {
        try
        {
            var run = await OpenAsync(strand, cancel);
            await ListingStyle.Of(Pull.Paging).RunAsync(run, cancel);
            return run.Skip;
        }
        catch (StrandSkip skip)
        {
            return skip.Skip;
        }
        catch (RefusedException error) when (SkipRules.Match(Pull.SkipWhen, error.Refusal) is { } rule)
        {
            return new LandedSkip(
                0,
                rule.Because ?? error.Refusal.Cause ?? "the sign-in was refused",
                Services.Redactor.Clean(error.Refusal.Quote ?? error.Refusal.What),
                Services.Redactor.Clean(error.Refusal.Request ?? ""));
        }
        catch (RefusedException error) when (Pull.Repeats
            && error.Refusal.Status is { } status
            && MayBeOfOneStrand(status)
            && error.Refusal.NextStep?.Contains("skip-when", StringComparison.Ordinal) != true)
        {
            var rule = Pull.SkipWhen.Count == 0
                ? $"skip-when: [{{ status: {status} }}] to pull '{Pull.Name}'"
                : $"{{ status: {status} }} to skip-when: of pull '{Pull.Name}'";
            var skip = $"if this strand may be missing, add {rule} and run again";
            throw new RefusedException(
                error.Refusal with { NextStep = error.Refusal.NextStep is { } next ? $"{next}; {skip}" : skip }, error);
        }
        catch (JobMistakesException error)
        {
            throw new RefusedException(new Refusal(
                Outcome.JobFileWrong,
                $"a strand of pull '{Pull.Name}' ({strand.Title}) fills in an invalid value: {error.Mistakes[0].Found}")
            {
                NextStep = error.Mistakes[0].Right,
            }, error);
        }
    }
}

using Cursiva.Core.Jobs;
using Cursiva.Core.State;

namespace Cursiva.Core.Apis;

/// <summary>Tells how much of a job's declared limits is in use on this machine, by whatever job.</summary>
public static class LimitUses
{
    /// <summary>The limits of the APIs that do not differ from strand to strand.</summary>
    public static async Task<IReadOnlyList<LimitUse>> OfAsync(Job job, IState state, CancellationToken cancel)
    {
        var uses = new List<LimitUse>();
        foreach (var api in job.Apis.Values.Where(
            api => !job.Strands.Apis.ContainsKey(api.Name) && (api.Identity is null || !job.Strands.Identities.ContainsKey(api.Identity))))
        {
            var windows = ApiLimits.WindowsOf(api, api.Identity is null ? null : job.Identities[api.Identity]);
            for (var place = 0; place < api.Limits.Kept.Count; place++)
                uses.Add(
                    new LimitUse(
                        api.Name,
                        api.Limits.Kept[place].ToString(),
                        await state.Slots.CountAsync(windows[place].Bucket, cancel),
                        api.Limits.Kept[place].Count));
        }

        return uses;
    }
}

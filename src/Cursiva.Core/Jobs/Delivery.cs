namespace Cursiva.Core.Jobs;

/// <summary>Takes written reports to people or systems, once.</summary>
/// <param name="Reports">The names of the reports whose files go; empty for a message about a run that failed.</param>
/// <param name="RepeatsInDoubt">Whether what may have left already is sent again.</param>
/// <param name="Within">How long it is tried; afterwards it is given up.</param>
public sealed record Delivery(string Name, Place Place, IReadOnlyList<string> Reports, DeliveryTime When, DeliveryWay Way, bool RepeatsInDoubt, TimeSpan Within)
{
    /// <summary>How long it is tried when a job says nothing.</summary>
    public static readonly TimeSpan DefaultWithin = TimeSpan.FromDays(1);
}

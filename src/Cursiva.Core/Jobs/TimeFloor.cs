namespace Cursiva.Core.Jobs;

/// <summary>What a relative time is rounded down to.</summary>
public enum TimeFloor
{
    None,
    Minute,
    Hour,
    Day,
    Week,
    Month,
}

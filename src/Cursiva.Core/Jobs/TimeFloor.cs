namespace Cursiva.Core.Jobs;

/// <summary>What a relative time is rounded down to.</summary>
public enum TimeFloor
{
    /// <summary>Not rounded.</summary>
    None,
    /// <summary>The start of the minute.</summary>
    Minute,
    /// <summary>The start of the hour.</summary>
    Hour,
    /// <summary>The start of the day in the zone.</summary>
    Day,
    /// <summary>The start of Monday in the zone.</summary>
    Week,
    /// <summary>The start of the month in the zone.</summary>
    Month,
}

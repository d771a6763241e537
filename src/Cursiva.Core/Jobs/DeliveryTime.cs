namespace Cursiva.Core.Jobs;

/// <summary>After which runs something is delivered.</summary>
public enum DeliveryTime
{
    /// <summary>After every run that wrote the reports.</summary>
    Always,

    /// <summary>Where the reports have rows.</summary>
    Rows,

    /// <summary>Where the rows of the reports are others than those that were delivered last.</summary>
    Changed,

    /// <summary>After a run that did not end well.</summary>
    Failed,

    /// <summary>After no run: where <c>overview --late</c> finds something that somebody has to look at.</summary>
    Late,
}

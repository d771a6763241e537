namespace Cursiva.Core.Runs;

/// <summary>What the user wants of a start.</summary>
public enum StartChoice
{
    /// <summary>Go on with a stopped run where the rules allow it, otherwise begin anew.</summary>
    Either,

    /// <summary>Begin anew.</summary>
    New,

    /// <summary>Go on with the stopped run, however old, or refuse.</summary>
    GoOn,
}

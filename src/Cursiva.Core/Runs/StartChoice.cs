namespace Cursiva.Core.Runs;

/// <summary>What the user wants of a start.</summary>
public enum StartChoice
{
    /// <summary>Resume a stopped run where the rules allow it, otherwise begin a new one.</summary>
    Either,

    /// <summary>Begin a new run.</summary>
    New,

    /// <summary>Resume the stopped run, however old, or refuse.</summary>
    GoOn,
}

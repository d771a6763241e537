namespace Cursiva.Core.Jobs;

/// <summary>What becomes of a run in which strands were skipped.</summary>
public enum SkipsEnd
{
    /// <summary>It is told.</summary>
    Report,

    /// <summary>The run ends with a code of its own, its reports written.</summary>
    ExitCode,

    /// <summary>The run ends with that code, and no report is written.</summary>
    Fail,
}

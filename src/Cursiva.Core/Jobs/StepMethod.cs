namespace Cursiva.Core.Jobs;

/// <summary>The method of a step (RFC 9110 section 9, RFC 5789).</summary>
public enum StepMethod
{
    /// <summary>It looks and changes nothing.</summary>
    Get,

    /// <summary>It may do something twice when it is sent twice.</summary>
    Post,

    /// <summary>Sent twice, it has done the same once.</summary>
    Put,

    /// <summary>It may do something twice when it is sent twice.</summary>
    Patch,

    /// <summary>Sent twice, it has done the same once.</summary>
    Delete,
}

namespace Cursiva.Core.Jobs;

/// <summary>What a stream of rows looks like.</summary>
public enum StreamForm
{
    /// <summary>One JSON object a line.</summary>
    Lines,

    /// <summary>One array of rows, or of batches of rows.</summary>
    Array,
}

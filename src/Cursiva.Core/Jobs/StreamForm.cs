namespace Cursiva.Core.Jobs;

/// <summary>What a stream of rows looks like.</summary>
public enum StreamForm
{
    /// <summary>One JSON object a line.</summary>
    Lines,

    /// <summary>One array of rows, or of batches of rows.</summary>
    Array,

    /// <summary>JSON texts, each behind a record separator (RFC 7464).</summary>
    Sequence,

    /// <summary>CSV with a header (RFC 4180); every field is a text.</summary>
    Csv,
}

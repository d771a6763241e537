namespace Cursiva.Core.Jobs;

/// <summary>How a step of an upload sends the file.</summary>
public enum FileBody
{
    /// <summary>Not at all.</summary>
    None,

    /// <summary>The file is the body.</summary>
    Body,

    /// <summary>It is a field of a form (RFC 7578).</summary>
    Form,

    /// <summary>It goes in pieces, each with Content-Range (RFC 9110 section 14.4).</summary>
    Pieces,
}

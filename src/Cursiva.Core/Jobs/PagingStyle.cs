namespace Cursiva.Core.Jobs;

/// <summary>How the next page of a listing is found.</summary>
public enum PagingStyle
{
    /// <summary>The listing has one page.</summary>
    OnePage,

    /// <summary>A page has the link to the next one.</summary>
    NextLink,

    /// <summary>A Link header has it (RFC 8288).</summary>
    LinkHeader,

    /// <summary>Pages are counted.</summary>
    PageNumber,

    /// <summary>Rows are counted.</summary>
    Offset,

    /// <summary>A page or its headers have a cursor, which is sent back.</summary>
    Cursor,

    /// <summary>A value of the last row is sent back.</summary>
    Keyset,

    /// <summary>The answer is one stream of rows, however long.</summary>
    Stream,

    /// <summary>An export is submitted, waited for and downloaded in parts.</summary>
    Export,

    /// <summary>The answer is a file that is kept.</summary>
    Download,
}

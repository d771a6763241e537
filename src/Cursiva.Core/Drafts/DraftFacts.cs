using System.Text.Json;

namespace Cursiva.Core.Drafts;

/// <summary>What a draft has found out of a listing.</summary>
/// <param name="Pull">The pull as it will be written.</param>
/// <param name="RowsWords">What stands where the rows are.</param>
/// <param name="Rows">The rows that were seen.</param>
internal sealed record DraftFacts(DraftedPull Pull, string RowsWords, IReadOnlyList<JsonElement> Rows)
{
    /// <summary>Whether it was proven how the next page is found.</summary>
    public bool IsProven { get; init; }

    /// <summary>What proved it, or why nothing did.</summary>
    public string PagingWords { get; init; } = "";

    /// <summary>Pages that were seen.</summary>
    public int Pages { get; init; } = 1;

    /// <summary>Whether the listing was seen to its end, and why it ended; null where it was not.</summary>
    public string? Ended { get; init; }

    /// <summary>What is known of the size of pages; empty for nothing.</summary>
    public string SizeWords { get; init; } = "";

    /// <summary>The limits that answers told, as YAML; null for none.</summary>
    public string? Limits { get; init; }

    /// <summary>A place on the last page with a link for what has changed since; null for none.</summary>
    public string? Changes { get; init; }

    /// <summary>Remarks that stand above the pull.</summary>
    public IReadOnlyList<string> Remarks { get; init; } = [];
}

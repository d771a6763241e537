namespace Cursiva.Core.Jobs;

/// <summary>How a submitted export is waited for and downloaded.</summary>
public sealed record ExportSteps
{
    /// <summary>The placeholder with the id of a submission, which no other one has.</summary>
    public const string Submission = "submission";

    /// <summary>How an export is found again whose submission got no answer; null where the API lists none.</summary>
    public ExportFind? Find { get; init; }

    /// <summary>Where the answer to the submission has the address to ask; null for the Location header.</summary>
    public JsonPointer? PollAt { get; init; }

    /// <summary>Between two questions, where the answer asks for no other pause.</summary>
    public TimeSpan Every { get; init; } = TimeSpan.FromSeconds(5);

    /// <summary>Where an answer has the state; null when the status alone tells: 202 goes on, 200 is done.</summary>
    public JsonPointer? State { get; init; }

    /// <summary>The states that mean done.</summary>
    public IReadOnlyList<string> Done { get; init; } = [];

    /// <summary>The states that mean failed.</summary>
    public IReadOnlyList<string> Failed { get; init; } = [];

    /// <summary>Where the last answer has the array of parts.</summary>
    public JsonPointer Parts { get; init; } = JsonPointer.TryParse("")!;

    /// <summary>Where a part has its address; empty when the part is the address.</summary>
    public JsonPointer Link { get; init; } = JsonPointer.TryParse("")!;

    /// <summary>Whether the answer that ends the wait leads to the rows themselves; otherwise it lists parts.</summary>
    public bool IsWhole { get; init; }

    /// <summary>Where a part tells its number of rows; null when that is not checked.</summary>
    public JsonPointer? PartRows { get; init; }

    /// <summary>Where a part tells its number of bytes; null when that is not checked.</summary>
    public JsonPointer? PartBytes { get; init; }

    /// <summary>Where a part tells its SHA-256; null when that is not checked.</summary>
    public JsonPointer? PartDigest { get; init; }

    /// <summary>Whether parts are CSV; otherwise JSON lines.</summary>
    public bool IsCsv { get; init; }
}

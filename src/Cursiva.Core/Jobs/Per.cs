using System.Text.Json.Nodes;

namespace Cursiva.Core.Jobs;

/// <summary>What a pull is repeated for.</summary>
/// <param name="Name">What its values are called in placeholders: the earlier pull's name, or one of its own.</param>
public sealed record Per(string Name, Place Place)
{
    /// <summary>The earlier pull whose rows it is; null for another source.</summary>
    public string? Pull { get; init; }

    /// <summary>Texts or objects that the job lists.</summary>
    public JsonArray? List { get; init; }

    /// <summary>A CSV file with a header, from the job's folder.</summary>
    public string? File { get; init; }

    /// <summary>One SELECT over earlier pulls.</summary>
    public string? Sql { get; init; }

    /// <summary>How many rows make one strand; their values are lists where there are several.</summary>
    public int Batch { get; init; } = 1;

    /// <summary>Behind the name of a pull: where the rows of a list, file or query are landed.</summary>
    public const string Suffix = ".per";

    /// <summary>Where its rows are landed.</summary>
    public string LandedAs(string pull) => Pull ?? pull + Suffix;
}

using System.Text.Json.Serialization;

namespace Cursiva.Core.Jobs;

/// <summary>Requests that change something in an API, one set of steps for each row of SQL.</summary>
/// <param name="Key">The columns that tell items apart.</param>
/// <param name="Api">The API's name.</param>
/// <param name="Identity">Whose requests they are; null for the API's.</param>
public sealed record Write(
    string Name,
    [property: JsonIgnore] Place Place,
    [property: JsonIgnore] SqlSource Sql,
    IReadOnlyList<string> Key,
    string Api,
    string? Identity,
    IReadOnlyList<WriteStep> Steps)
{
    /// <summary>What the row of an item is called in placeholders.</summary>
    public const string Row = "row";

    /// <summary>Items that are worked on at once, when a job says nothing.</summary>
    public const int DefaultParallel = 4;

    /// <summary>Whether items that are as they were sent last are left alone.</summary>
    public bool OnlyIfChanged { get; init; }

    /// <summary>How many items may be changed in one run; null for any number.</summary>
    public SkipAllowance? MostChanges { get; init; }

    /// <summary>The requests for an item that is no longer there; empty where such items stay.</summary>
    public IReadOnlyList<WriteStep> Remove { get; init; } = [];

    /// <summary>Refusals that pass over one item.</summary>
    public IReadOnlyList<SkipRule> SkipWhen { get; init; } = [];

    /// <summary>What must hold of every item before any of them is sent.</summary>
    [JsonIgnore]
    public IReadOnlyList<ItemRequirement> Require { get; init; } = [];

    /// <summary>How its bodies are encrypted; null for the API's way.</summary>
    public BodyEncryption? Encryption { get; init; }

    /// <summary>What of its exchange is signed, beside what the API says; null for nothing more.</summary>
    public Signatures? Signatures { get; init; }

    /// <summary>Items that are worked on at once.</summary>
    public int Parallel { get; init; } = DefaultParallel;

    /// <summary>Whether what may have been done already is done again where nobody can be asked.</summary>
    public bool RepeatsInDoubt { get; init; }

    /// <summary>How long it is tried; afterwards it is given up.</summary>
    public TimeSpan Within { get; init; } = Delivery.DefaultWithin;

    /// <summary>The write as one of its steps exchanges messages.</summary>
    public Write For(WriteStep step) => step is { Encryption: null, Signatures: null }
        ? this
        : this with { Encryption = step.Encryption ?? Encryption, Signatures = step.Signatures?.Over(Signatures) ?? Signatures };
}

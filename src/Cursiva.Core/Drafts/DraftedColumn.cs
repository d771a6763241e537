using Cursiva.Core.Jobs;

namespace Cursiva.Core.Drafts;

/// <summary>A column that rows were seen to have.</summary>
/// <param name="Name">Its name in the table.</param>
/// <param name="At">Where a row has it.</param>
/// <param name="Type">The type in which every value keeps its digits, or the one to compute with.</param>
/// <param name="Words">What was seen, for people.</param>
internal sealed record DraftedColumn(string Name, JsonPointer At, ColumnType Type, string Words)
{
    /// <summary>How many different values it has; null for more than are worth counting.</summary>
    public int? Different { get; init; }

    /// <summary>Whether every row has a value, and no two have the same.</summary>
    public bool IsUnique { get; init; }

    /// <summary>A value that was seen; null for none.</summary>
    public string? Example { get; init; }

    /// <summary>Whether the digits of its values differ in their places, so that computing changes how they are written.</summary>
    public bool LosesPlaces { get; init; }

    /// <summary>Its entry in <c>columns:</c>.</summary>
    public string Yaml => At.Text == JsonPointer.ToField(Name).Text
        ? $"{YamlText.Key(Name)}: {Type.ToString().ToLowerInvariant()}"
        : $"{YamlText.Key(Name)}: {{ at: {YamlText.Scalar(At.Text)}, type: {Type.ToString().ToLowerInvariant()} }}";
}

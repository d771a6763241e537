namespace Cursiva.Core.Jobs;

/// <summary>How a value is placed in text: <c>{html:row.name}</c> as HTML that shows it, <c>{json:row.name}</c> as JSON.</summary>
public static class ValueEscape
{
    /// <summary>The value as HTML that shows it.</summary>
    public const string Html = "html";

    /// <summary>The value as JSON, a text in its quotes.</summary>
    public const string Json = "json";

    /// <summary>The escape in front of a name; null for none.</summary>
    public static (string? Escape, string Name) Split(string name) =>
        name.StartsWith(Html + ":", StringComparison.Ordinal) ? (Html, name[(Html.Length + 1)..])
        : name.StartsWith(Json + ":", StringComparison.Ordinal) ? (Json, name[(Json.Length + 1)..])
        : (null, name);
}

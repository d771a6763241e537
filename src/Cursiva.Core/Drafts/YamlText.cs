using System.Text.RegularExpressions;

namespace Cursiva.Core.Drafts;

/// <summary>
/// Values as they stand in a YAML file (YAML 1.2.2): plain where that cannot be mistaken, and otherwise in double quotes, as JSON.
/// </summary>
internal static partial class YamlText
{
    /// <summary>A value of a key that is not filled in.</summary>
    public static string Scalar(string text) => Plain().IsMatch(text) && !Mistakable().IsMatch(text) ? text : Quoted(text);

    /// <summary>A value that a job fills in: braces that are meant as they stand are doubled.</summary>
    public static string Literal(string text) =>
        Scalar(text.Replace("{", "{{", StringComparison.Ordinal).Replace("}", "}}", StringComparison.Ordinal));

    /// <summary>A text always in quotes, so that a number stays a text.</summary>
    public static string Quoted(string text) =>
        "\"" + System.Text.Json.JsonEncodedText
            .Encode(text, System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping)
            .ToString() + "\"";

    /// <summary>A name as the key of a mapping.</summary>
    public static string Key(string name) => Scalar(name);

    /// <summary>What may stand behind a # on the same line.</summary>
    public static string Comment(string text) =>
        string.Concat(text.Select(c => char.IsControl(c) || c is '\u2028' or '\u2029' or '\u0085' ? ' ' : c));

    /// <summary>A name of a pull, view or report that SQL takes without quotes.</summary>
    public static string Name(string text)
    {
        var name = Odd().Replace(Uri.UnescapeDataString(text).ToLowerInvariant(), "_").Trim('_');
        name = name.Length == 0 ? "listing" : char.IsAsciiDigit(name[0]) ? "n" + name : name.Length > 50 ? name[..50] : name;
        return SqlName.IsReserved(name) || Reserved().IsMatch(name) ? name + "_rows" : name;
    }

    [GeneratedRegex(@"^(?:[A-Za-z/][A-Za-z0-9_./~+-]*(?: [A-Za-z0-9_./~+-]+)*|[A-Za-z][A-Za-z0-9_./:+-]*[A-Za-z0-9_/])$")]
    private static partial Regex Plain();

    [GeneratedRegex(@"^(?:true|false|null|yes|no|on|off|y|n|~)$|:$|: ", RegexOptions.IgnoreCase)]
    private static partial Regex Mistakable();

    // What every job's SQL has already.
    [GeneratedRegex("^(?:skips|pulls|run|written|before|added|removed|changed)$")]
    private static partial Regex Reserved();

    [GeneratedRegex("[^a-z0-9]+")]
    private static partial Regex Odd();
}

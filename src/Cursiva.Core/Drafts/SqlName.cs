using System.Text.RegularExpressions;

namespace Cursiva.Core.Drafts;

/// <summary>Names as SQL takes them.</summary>
internal static partial class SqlName
{
    private static readonly HashSet<string> s_reserved = new(
        [
            "all",
            "analyze",
            "and",
            "any",
            "array",
            "as",
            "asc",
            "both",
            "case",
            "cast",
            "check",
            "collate",
            "column",
            "constraint",
            "create",
            "default",
            "desc",
            "describe",
            "distinct",
            "do",
            "else",
            "end",
            "except",
            "false",
            "fetch",
            "for",
            "foreign",
            "from",
            "group",
            "having",
            "in",
            "intersect",
            "into",
            "is",
            "join",
            "lambda",
            "lateral",
            "leading",
            "left",
            "limit",
            "not",
            "null",
            "offset",
            "on",
            "only",
            "or",
            "order",
            "pivot",
            "primary",
            "qualify",
            "references",
            "returning",
            "right",
            "select",
            "show",
            "some",
            "summarize",
            "table",
            "then",
            "to",
            "trailing",
            "true",
            "union",
            "unique",
            "unpivot",
            "using",
            "values",
            "variadic",
            "when",
            "where",
            "window",
            "with",
        ],
        StringComparer.OrdinalIgnoreCase);

    /// <summary>Whether SQL takes a name for a word of its own.</summary>
    public static bool IsReserved(string name) => s_reserved.Contains(name);

    /// <summary>A name in double quotes where it needs them.</summary>
    public static string Of(string name) =>
        Plain().IsMatch(name) && !IsReserved(name) ? name : "\"" + name.Replace("\"", "\"\"", StringComparison.Ordinal) + "\"";

    [GeneratedRegex("^[A-Za-z_][A-Za-z0-9_]*$")]
    private static partial Regex Plain();
}

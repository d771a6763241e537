namespace Cursiva.Core.Jobs;

/// <summary>A path with placeholders (RFC 6570).</summary>
public static class PathTemplate
{
    /// <summary>The names that a template needs.</summary>
    /// <param name="mistake">What is wrong with the template, or null.</param>
    public static IReadOnlyList<string> Names(string template, out string? mistake)
    {
        mistake = null;
        var names = new List<string>();
        for (var i = 0; i < template.Length; i++)
        {
            if (template[i] == '}')
            {
                mistake = "a brace is closed and was never opened";
                return names;
            }

            if (template[i] != '{')
                continue;

            var end = template.IndexOf('}', i);
            if (end <= i + 1)
            {
                mistake = end < 0 ? "a brace is opened and never closed" : "the braces are empty";
                return names;
            }

            var inside = template[(i + 1)..end].TrimStart('+', '#', '.', '/', ';', '?', '&');
            names.AddRange(inside.Split(',').Select(part => part.TrimEnd('*').Split(':')[0]));
            i = end;
        }

        return names;
    }

    /// <summary>Whether a path makes no sense without the value of a name: it stands in the path itself, and not among the parameters.</summary>
    public static bool NeedsValue(string template, string name)
    {
        for (var i = template.IndexOf('{', StringComparison.Ordinal); i >= 0; i = template.IndexOf('{', i + 1))
        {
            var end = template.IndexOf('}', i);
            if (end > i + 1 && template[i + 1] is not ('?' or '&') && template[(i + 1)..end].TrimStart('+', '#', '.', '/', ';').Split(',').Any(part => part.TrimEnd('*').Split(':')[0] == name))
                return true;
        }

        return false;
    }

    /// <summary>The path with the values in it; names without one are left out (RFC 6570 section 2.3).</summary>
    /// <param name="values">Texts and lists of texts, by name.</param>
    public static string Expand(string template, IReadOnlyDictionary<string, object> values) =>
        Std.UriTemplate.Expand(template, values.ToDictionary(StringComparer.Ordinal));

    /// <summary>The path with the values in it.</summary>
    public static string Expand(string template, IEnumerable<Input> inputs) =>
        Std.UriTemplate.Expand(template, inputs.ToDictionary(input => input.Name, object (input) => input.Value, StringComparer.Ordinal));
}

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

    /// <summary>The path with the values in it.</summary>
    public static string Expand(string template, IEnumerable<Input> inputs) =>
        Std.UriTemplate.Expand(template, inputs.ToDictionary(input => input.Name, object (input) => input.Value, StringComparer.Ordinal));
}

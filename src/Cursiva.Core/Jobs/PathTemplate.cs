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
                mistake = "a closing brace has no opening brace";
                return names;
            }

            if (template[i] != '{')
                continue;

            var end = template.IndexOf('}', i);
            if (end <= i + 1)
            {
                mistake = end < 0 ? "an opening brace has no closing brace" : "the braces are empty";
                return names;
            }

            var inside = template[(i + 1)..end].TrimStart('+', '#', '.', '/', ';', '?', '&');
            names.AddRange(inside.Split(',').Select(part => part.TrimEnd('*').Split(':')[0]));
            i = end;
        }

        return names;
    }

    /// <summary>
    /// Whether a path makes no sense without the value of a name: it stands in the path itself, and not among the parameters.
    /// </summary>
    public static bool NeedsValue(string template, string name)
    {
        for (var i = template.IndexOf('{', StringComparison.Ordinal); i >= 0; i = template.IndexOf('{', i + 1))
        {
            var end = template.IndexOf('}', i);
            if (end > i + 1
                && template[i + 1] is not ('?' or '&')
                && template[(i + 1)..end].TrimStart('+', '#', '.', '/', ';').Split(',').Any(
                    part => part.TrimEnd('*').Split(':')[0] == name))
                return true;
        }

        return false;
    }

    /// <summary>
    /// Whether a name stands in a path without an operator that leaves its slash or sign out together with it: <c>{name}</c>, and not
    /// <c>{/name}</c>.
    /// </summary>
    public static bool IsBare(string template, string name) =>
        template.Split('{').Skip(1).Select(part => part.Split('}')[0].TrimStart('+')).Any(
            inside => inside.Split(',').Any(part => part.TrimEnd('*').Split(':')[0] == name));

    /// <summary>The path with the values in it; names without one are omitted (RFC 6570 section 2.3).</summary>
    /// <param name="values">Texts and lists of texts, by name.</param>
    /// <remarks>
    /// In <c>{+name}</c> slashes of a value stay as they are; what would end the path (<c>?</c>, <c>#</c>), and what is encoded already,
    /// is encoded nevertheless, so that a value stays in the path.
    /// </remarks>
    public static string Expand(string template, IReadOnlyDictionary<string, object> values)
    {
        var path = new System.Text.StringBuilder();
        var at = 0;
        for (var open = template.IndexOf('{', StringComparison.Ordinal); open >= 0; open = template.IndexOf('{', at))
        {
            var end = template.IndexOf('}', open);
            if (end < 0)
                break;
            path.Append(template, at, open - at);
            var expression = template[open..(end + 1)];
            var isReserved = expression.Length > 1 && expression[1] is '+' or '#';
            path.Append(
                Std.UriTemplate.Expand(
                    Plain(expression),
                    values.ToDictionary(
                        pair => Plain(pair.Key), pair => isReserved ? Kept(pair.Value) : pair.Value, StringComparer.Ordinal)));
            at = end + 1;
        }

        return path.Append(template, at, template.Length - at).ToString();
    }

    /// <summary>The path with the values in it.</summary>
    /// <param name="fields">Places of the token endpoint's answer, by placeholder; null for none.</param>
    public static string Expand(string template, IEnumerable<Input> inputs, IReadOnlyDictionary<string, string>? fields = null) =>
        Expand(
            template,
            inputs.Select(input => KeyValuePair.Create(input.Name, input.Value))
                .Concat(fields ?? new Dictionary<string, string>())
                .ToDictionary(
                pair => pair.Key, object (pair) => pair.Value, StringComparer.Ordinal));

    // A pointer into the token's answer has slashes, which names of RFC 6570 have not.
    private static string Plain(string name)
    {
        var at = name.IndexOf("token/", StringComparison.Ordinal);
        return at is < 0 or > 2 ? name : name[..at] + name[at..].Replace('/', '.').Replace("~", "..");
    }

    // Ends of a path and percent signs, so that nothing of them comes through as it is.
    private static object Kept(object value) => value switch
    {
        string text => text.Replace("%", "%25").Replace("?", "%3F").Replace("#", "%23").Replace("\\", "%5C"),
        List<string> texts => texts.ConvertAll(text => (string)Kept(text)),
        _ => value,
    };
}

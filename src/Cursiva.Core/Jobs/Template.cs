using System.Text;

namespace Cursiva.Core.Jobs;

/// <summary>
/// A string with placeholders: <c>{name}</c> is filled in as it is, and <c>{{</c> and <c>}}</c> are braces.
/// </summary>
public sealed class Template
{
    private readonly List<(string Text, bool IsName)> _parts;

    private Template(string text, List<(string, bool)> parts)
    {
        Text = text;
        _parts = parts;
    }

    /// <summary>The template as it was written.</summary>
    public string Text { get; }

    /// <summary>The names it needs, in order.</summary>
    public IEnumerable<string> Names => _parts.Where(part => part.IsName).Select(part => part.Text);

    /// <summary>Texts and names, in order.</summary>
    public IReadOnlyList<(string Text, bool IsName)> Parts => _parts;

    /// <summary>The text of a template without names, with single braces.</summary>
    public string Literal => string.Concat(_parts.Select(part => part.IsName ? "{" + part.Text + "}" : part.Text));

    /// <summary>A template that is this very text, braces and all.</summary>
    public static Template OfLiteral(string text) =>
        new(text.Replace("{", "{{").Replace("}", "}}"), text.Length == 0 ? [] : [(text, false)]);

    /// <summary>Reads a template.</summary>
    /// <param name="mistake">What is wrong with it, when the result is null.</param>
    public static Template? TryParse(string text, out string mistake)
    {
        mistake = "";
        var parts = new List<(string, bool)>();
        var literal = new StringBuilder();
        for (var i = 0; i < text.Length; i++)
        {
            var c = text[i];
            if (c is '{' or '}' && i + 1 < text.Length && text[i + 1] == c)
            {
                literal.Append(c);
                i++;
            }
            else if (c == '{')
            {
                var end = text.IndexOf('}', i);
                if (end < 0)
                {
                    mistake = "an opening brace has no closing brace";
                    return null;
                }

                if (literal.Length > 0)
                    parts.Add((literal.ToString(), false));
                literal.Clear();
                parts.Add((text[(i + 1)..end], true));
                i = end;
            }
            else if (c == '}')
            {
                mistake = "a closing brace has no opening brace";
                return null;
            }
            else
            {
                literal.Append(c);
            }
        }

        if (literal.Length > 0)
            parts.Add((literal.ToString(), false));
        return new Template(text, parts);
    }

    /// <summary>The text with every name replaced by its value.</summary>
    /// <exception cref="KeyNotFoundException">A name has no value.</exception>
    public string Fill(Func<string, string?> value)
    {
        var filled = new StringBuilder();
        foreach (var (text, isName) in _parts)
            filled.Append(isName ? value(text) ?? throw new KeyNotFoundException(text) : text);
        return filled.ToString();
    }
}

using System.Text;

namespace Cursiva.Core.Http;

/// <summary>An answer's own words, short enough for a message.</summary>
public static class Quote
{
    private const int Most = 300;

    /// <summary>The beginning of the body on one line, with control characters removed; null when it is empty.</summary>
    public static string? From(Answer answer) => From(answer.Body.Content);

    /// <summary>The beginning of a body on one line, with control characters removed; null when it is empty.</summary>
    public static string? From(ReadOnlySpan<byte> body)
    {
        var text = new StringBuilder();
        foreach (var c in Encoding.UTF8.GetString(body[..Math.Min(body.Length, Most * 2)]))
        {
            if (!char.IsControl(c) && !char.IsWhiteSpace(c))
                text.Append(c);
            else if (text.Length > 0 && text[^1] != ' ')
                text.Append(' ');
        }

        var line = text.ToString().Trim();
        return line.Length == 0 ? null : line.Length <= Most ? line : line[..Most] + "...";
    }
}

using System.Text;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Http;

/// <summary>The other side's own words, short enough for a message: secrets are taken out of the whole before it is cut.</summary>
public static class Quote
{
    private const int Most = 300;
    private const int Looked = 16 * 1024;

    /// <summary>The beginning of the body on one line, without secrets and control characters; null when it is empty.</summary>
    public static string? From(Answer answer, Redactor redactor) => From(answer.Body.Content, redactor);

    /// <summary>The beginning of a body on one line, without secrets and control characters; null when it is empty.</summary>
    public static string? From(ReadOnlySpan<byte> body, Redactor redactor) =>
        Of(Encoding.UTF8.GetString(body[..Math.Min(body.Length, Looked)]), redactor);

    /// <summary>The beginning of a text from outside on one line, without secrets and control characters; null when it is empty.</summary>
    public static string? Of(string? words, Redactor redactor)
    {
        if (words is null)
            return null;
        var text = new StringBuilder();
        foreach (var c in ShownAddress.InText(redactor.Clean(words)))
        {
            if (!char.IsControl(c) && !char.IsWhiteSpace(c))
                text.Append(c);
            else if (text.Length > 0 && text[^1] != ' ')
                text.Append(' ');
            if (text.Length > Most * 2)
                break;
        }

        var line = OneLine.Of(text.ToString().Trim());
        return line.Length == 0 ? null : line.Length <= Most ? line : line[..Most] + "...";
    }
}

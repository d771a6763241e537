using System.Buffers;
using System.Net;
using System.Text;

namespace Cursiva.Core.Reports;

/// <summary>Values as HTML: rows from an API are hostile input.</summary>
internal static class HtmlText
{
    private static readonly SearchValues<byte> s_special = SearchValues.Create("&<>\"'"u8);

    public static string Escape(string text) => WebUtility.HtmlEncode(text);

    /// <summary>Writes a value as the text of an element.</summary>
    public static void Write(BufferedOutput output, ReadOnlySpan<byte> text)
    {
        for (var at = text.IndexOfAny(s_special); at >= 0; at = text.IndexOfAny(s_special))
        {
            output.Write(text[..at]);
            output.Write(text[at] switch
            {
                (byte)'&' => "&amp;"u8,
                (byte)'<' => "&lt;"u8,
                (byte)'>' => "&gt;"u8,
                (byte)'"' => "&quot;"u8,
                _ => "&#39;"u8,
            });
            text = text[(at + 1)..];
        }

        output.Write(text);
    }

    public static void Write(BufferedOutput output, string html) => output.Write(Encoding.UTF8.GetBytes(html));
}

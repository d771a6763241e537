using System.Buffers;
using System.Text;

namespace Cursiva.Core.Reports;

/// <summary>
/// Text in the XML of a workbook (ECMA-376 part 1, section 22.9.2.19): what XML cannot hold is written <c>_xHHHH_</c>, and a text
/// that looks like that has its underscore written so.
/// </summary>
internal static class XlsxText
{
    private static readonly SearchValues<byte> s_special = SearchValues.Create(
        [.. "&<>\"_"u8, .. Enumerable.Range(0, 32).Select(c => (byte)c), 0xEF]);

    private static readonly SearchValues<byte> s_hex = SearchValues.Create("0123456789abcdefABCDEF"u8);

    public static void Write(BufferedOutput output, ReadOnlySpan<byte> text)
    {
        while (true)
        {
            var at = text.IndexOfAny(s_special);
            if (at < 0)
            {
                output.Write(text);
                return;
            }

            output.Write(text[..at]);
            text = text[at..];
            text = text[Escape(output, text)..];
        }
    }

    /// <summary>A text as it stands in XML.</summary>
    public static string Of(string text)
    {
        using var escaped = new MemoryStream();
        var output = new BufferedOutput(escaped);
        Write(output, Encoding.UTF8.GetBytes(text));
        output.Flush();
        return Encoding.UTF8.GetString(escaped.GetBuffer(), 0, (int)escaped.Length);
    }

    // Returns how many bytes were dealt with.
    private static int Escape(BufferedOutput output, ReadOnlySpan<byte> text)
    {
        switch (text[0])
        {
            case (byte)'&':
                output.Write("&amp;"u8);
                return 1;
            case (byte)'<':
                output.Write("&lt;"u8);
                return 1;
            case (byte)'>':
                output.Write("&gt;"u8);
                return 1;
            case (byte)'"':
                output.Write("&quot;"u8);
                return 1;
            case (byte)'_':
                output.Write(LooksEscaped(text) ? "_x005F_"u8 : "_"u8);
                return 1;
            case (byte)'\t' or (byte)'\n':
                output.Write(text[0]);
                return 1;
            case 0xEF when text.Length >= 3 && text[1] == 0xBF && text[2] >= 0xBE:
                output.Write(text[2] == 0xBE ? "_xFFFE_"u8 : "_xFFFF_"u8);
                return 3;
            case 0xEF:
                output.Write(text[0]);
                return 1;
            default:
                output.Write(Encoding.ASCII.GetBytes($"_x{text[0]:X4}_"));
                return 1;
        }
    }

    private static bool LooksEscaped(ReadOnlySpan<byte> text) =>
        text.Length >= 7 && text[1] == 'x' && text[6] == '_' && !text[2..6].ContainsAnyExcept(s_hex);
}

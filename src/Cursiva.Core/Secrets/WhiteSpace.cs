namespace Cursiva.Core.Secrets;

/// <summary>Notices what copying and pasting leaves behind.</summary>
public static class WhiteSpace
{
    /// <summary>Where a text has white space that hardly belongs there, in words; null when it has none.</summary>
    public static string? Find(string text)
    {
        if (text.Length == 0)
            return null;
        if (char.IsWhiteSpace(text[0]))
            return $"{Name(text[0])} at its beginning";
        if (char.IsWhiteSpace(text[^1]))
            return $"{Name(text[^1])} at its end";
        for (var i = 0; i < text.Length; i++)
        {
            if (char.IsControl(text[i]) || text[i] is '\u00A0' or '\u200B' or '\uFEFF')
                return $"{Name(text[i])} after {i} characters";
        }

        return text[0] is '\u200B' or '\uFEFF' ? $"{Name(text[0])} at its beginning" : null;
    }

    private static string Name(char c) => c switch
    {
        ' ' => "a space",
        '\t' => "a tab",
        '\r' or '\n' => "a line break",
        '\u00A0' => "a no-break space",
        '\u200B' or '\uFEFF' => "an invisible character",
        _ => "a control character",
    };
}

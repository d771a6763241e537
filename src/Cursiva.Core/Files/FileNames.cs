using System.Globalization;
using System.Security.Cryptography;
using System.Text;

namespace Cursiva.Core.Files;

/// <summary>Values from outside as names of files: one name, in one folder, that every usual file system takes.</summary>
public static class FileNames
{
    /// <summary>Most bytes that a value takes of a name; file systems allow 255 for all of it.</summary>
    public const int MostBytes = 120;

    /// <summary>
    /// The value with what a file system or a shell would take for something else replaced by an underscore, and cut at a character's
    /// edge. What was cut ends in a digest of the whole, so that values which begin alike have names of their own.
    /// </summary>
    public static string Of(string value)
    {
        var name = new StringBuilder();
        foreach (var rune in value.EnumerateRunes())
        {
            var category = Rune.GetUnicodeCategory(rune);
            var isBad = rune.Value is '/' or '\\' or ':' or '*' or '?' or '"' or '<' or '>' or '|' || rune == Rune.ReplacementChar
                || category is UnicodeCategory.Control or UnicodeCategory.Format or UnicodeCategory.LineSeparator or UnicodeCategory.ParagraphSeparator or UnicodeCategory.Surrogate;
            name.Append(isBad ? "_" : rune.ToString());
        }

        var whole = name.ToString().Trim().TrimEnd('.');
        if (whole.Length == 0)
            return value.Length == 0 ? "empty" : "_";
        if (whole[0] is '.' or '~' or '-')
            whole = "_" + whole[1..];
        return Encoding.UTF8.GetByteCount(whole) <= MostBytes
            ? whole
            : $"{Cut(whole, MostBytes - 9)}~{Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(value)))[..8]}";
    }

    /// <summary>What two paths have in common that a file system which ignores case and composition takes for one.</summary>
    public static string Folded(string path) => path.Normalize(NormalizationForm.FormC).ToUpperInvariant();

    /// <summary>Whether a folder takes names that differ in case alone for one.</summary>
    /// <exception cref="IOException">Nothing can be written there.</exception>
    public static bool IgnoreCase(IDisk disk, string folder)
    {
        var probe = Path.Combine(folder, $".cursiva-Case-{Guid.NewGuid():n}.part");
        disk.Create(probe, shared: true).Dispose();
        try
        {
            return disk.Exists(Path.Combine(folder, Path.GetFileName(probe).ToLowerInvariant()));
        }
        finally
        {
            disk.Delete(probe);
        }
    }

    private static string Cut(string text, int bytes)
    {
        var cut = new StringBuilder();
        foreach (var rune in text.EnumerateRunes())
        {
            if ((bytes -= rune.Utf8SequenceLength) < 0)
                break;
            cut.Append(rune.ToString());
        }

        return cut.ToString();
    }
}

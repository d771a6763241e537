namespace Cursiva.Core.Files;

/// <summary>Looks for symbolic links on the way to a file below a folder that others may write to.</summary>
public static class PlantedLinks
{
    /// <summary>Makes sure that no folder between two is a link.</summary>
    /// <param name="root">The folder that the user chose, which may be a link itself.</param>
    /// <param name="folder">A folder below it, there or not.</param>
    /// <exception cref="IOException">A folder on the way is a link.</exception>
    public static void Check(string root, string folder)
    {
        var top = Path.TrimEndingDirectorySeparator(Path.GetFullPath(root));
        for (var at = Path.GetFullPath(folder); at.Length > top.Length
            && at.StartsWith(top + "/", StringComparison.Ordinal); at = Path.GetDirectoryName(at)!)
        {
            if (new DirectoryInfo(at).LinkTarget is { } target)
                throw new IOException(
                    $"{at} is a link to {target}, and links below out: are not followed; name the real folder in out:, or remove the link");
        }
    }
}

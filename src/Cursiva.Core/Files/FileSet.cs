using System.Text.Json;

namespace Cursiva.Core.Files;

/// <summary>
/// Files that appear together (promise 5): all are written under temporary names and flushed, then a list of the renames is
/// made durable, then all are renamed. <see cref="Finish"/> carries out a list that a crash left behind.
/// </summary>
/// <param name="root">The folder that all files are below; a link on the way from there to a file is not followed.</param>
public sealed class FileSet(IDisk disk, string root, string listPath)
{
    // A file without a temporary name is one that goes.
    private readonly List<(string Temporary, string Final)> _files = [];

    /// <summary>Begins a file that will appear under <paramref name="path"/>. The caller writes, flushes and disposes it.</summary>
    /// <exception cref="IOException">The folder or the file cannot be written.</exception>
    public DiskStream Begin(string path)
    {
        var final = Path.GetFullPath(path);
        if (_files.Exists(file => file.Final == final))
            throw new IOException($"two files of one report would be named {final}; give each its own name");
        var folder = Path.GetDirectoryName(final)!;
        PlantedLinks.Check(root, folder);
        disk.CreateFolder(folder, shared: true);
        var temporary = Path.Combine(folder, $".{Path.GetFileName(final)}.part");
        disk.Delete(temporary);
        var file = disk.Create(temporary, shared: true);
        _files.Add((temporary, final));
        return new DiskStream(file);
    }

    /// <summary>Removes a file in the same step.</summary>
    public void Remove(string path) => _files.Add(("", Path.GetFullPath(path)));

    /// <summary>Lets all files appear. Every stream must have been flushed and disposed.</summary>
    public void Publish()
    {
        foreach (var folder in Folders(_files))
            disk.FlushFolder(folder);

        WholeFile.Write(disk, listPath, JsonSerializer.SerializeToUtf8Bytes(
            _files.ConvertAll(file => new[] { file.Temporary, file.Final }), FileSetJson.Default.ListStringArray));
        CarryOut(disk, listPath, _files);
    }

    /// <summary>Removes the temporary files of a set that will not be published.</summary>
    public void Abandon()
    {
        foreach (var (temporary, _) in _files.Where(file => file.Temporary.Length > 0))
            disk.Delete(temporary);
    }

    /// <summary>Finishes what a crash between renames left; does nothing when there is no list.</summary>
    /// <returns>The final paths of the set, empty when there was none.</returns>
    public static IReadOnlyList<string> Finish(IDisk disk, string listPath)
    {
        if (!disk.Exists(listPath))
            return [];

        var list = JsonSerializer.Deserialize(WholeFile.Read(disk, listPath), FileSetJson.Default.ListStringArray) ?? [];
        var files = list.ConvertAll(pair => (Temporary: pair[0], Final: pair[1]));
        CarryOut(disk, listPath, files);
        return [.. files.Where(file => file.Temporary.Length > 0).Select(file => file.Final)];
    }

    private static void CarryOut(IDisk disk, string listPath, List<(string Temporary, string Final)> files)
    {
        foreach (var (temporary, final) in files)
        {
            if (temporary.Length == 0)
                disk.Delete(final);
            else if (disk.Exists(temporary))
                disk.Rename(temporary, final);
        }

        foreach (var folder in Folders(files))
            disk.FlushFolder(folder);
        disk.Delete(listPath);
    }

    private static IEnumerable<string> Folders(List<(string Temporary, string Final)> files) =>
        files.Select(file => Path.GetDirectoryName(file.Final)!).Where(Directory.Exists).Distinct(StringComparer.Ordinal);
}

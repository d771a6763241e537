using System.Collections.Concurrent;
using Cursiva.Core.Files;

namespace Cursiva.Core.State;

/// <summary>
/// Files of runs that several processes of this machine work on: a SQLite file in the folder of each, with the strands that are to be
/// fetched
/// and what was landed of them.
/// </summary>
/// <param name="root">The state folder.</param>
internal sealed class RunFiles(string root) : IDisposable
{
    private const string FileName = "together.db";

    private static readonly string[] s_tables =
    [
        """
        create table if not exists strands (landing text not null, pull text not null, strand text not null, "values" text not null, carried text not null,
            way text not null, status integer, because text, said text, request text, primary key (landing, pull, strand)) without rowid
        """,
        """
        create table if not exists pages (landing text not null, pull text not null, strand text not null, page integer not null, rows integer not null,
            length integer not null, checksum integer not null, next text, piece integer not null, mark text, ended text, told integer, etag text,
            lines blob not null, primary key (landing, pull, strand, page))
        """,
        """
        create table if not exists queue (landing text not null, pull text not null, strand text not null, anew integer not null, holder text,
            fence integer not null default 0, until integer, result text, primary key (landing, pull, strand)) without rowid
        """,
        "create table if not exists fences (latest integer not null)",
        "insert into fences select 0 where not exists (select * from fences)",
    ];

    private readonly ConcurrentDictionary<string, Lazy<OneConnection>> _open = new(StringComparer.Ordinal);

    /// <summary>The files that this process has opened.</summary>
    public IEnumerable<OneConnection> Opened => _open.Values.Where(file => file.IsValueCreated).Select(file => file.Value);

    /// <summary>The file of a landing; null where there is none.</summary>
    public OneConnection? Find(string landing) => File.Exists(PathOf(landing)) ? Make(landing) : null;

    /// <summary>The file of a landing, which is made where it is not there.</summary>
    public OneConnection Make(string landing)
    {
        var path = PathOf(landing);
        return _open.GetOrAdd(path, _ => new Lazy<OneConnection>(() =>
        {
            Directory.CreateDirectory(Path.GetDirectoryName(path)!);
            if (!File.Exists(path))
                File.Open(
                    path,
                    new FileStreamOptions
                    {
                        Mode = FileMode.OpenOrCreate,
                        Access = FileAccess.Write,
                        UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
                    }).Dispose();
            return new OneConnection(SqliteFile.Open(path, s_tables));
        })).Value;
    }

    /// <summary>The landings below a folder of the state whose runs have such a file.</summary>
    /// <param name="prefix">How their names begin.</param>
    public IEnumerable<string> FoldersBelow(string prefix)
    {
        var folder = Path.Combine(root, Path.GetDirectoryName(prefix) ?? "");
        return Directory.Exists(folder)
            ? Directory.EnumerateFiles(folder, FileName, new EnumerationOptions { RecurseSubdirectories = true, MaxRecursionDepth = 1 })
                .Select(file => Path.GetRelativePath(root, Path.GetDirectoryName(file)!))
            : [];
    }

    /// <summary>Removes the file of a landing: nobody needs what is in it.</summary>
    public void Remove(string landing)
    {
        var path = PathOf(landing);
        if (_open.TryRemove(path, out var file))
            file.Value.Dispose();
        foreach (var part in new[] { "", "-wal", "-shm" })
            File.Delete(path + part);
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var file in Opened)
            file.Dispose();
        _open.Clear();
    }

    private string PathOf(string landing) => Path.Combine(root, Path.GetDirectoryName(landing)!, FileName);
}

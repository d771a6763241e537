using Cursiva.Core.Files;

namespace Cursiva.Core.Tests.Files;

/// <summary>A disk that does what the machine's does, but for what a test makes it do.</summary>
internal abstract class DiskDouble : IDisk
{
    private readonly Disk _disk = new();

    public virtual IDiskFile Open(string path, bool shared = false) => _disk.Open(path, shared);

    public virtual IDiskFile Create(string path, bool shared = false) => _disk.Create(path, shared);

    public virtual void CreateFolder(string path, bool shared = false) => _disk.CreateFolder(path, shared);

    public virtual void FlushFolder(string path) => _disk.FlushFolder(path);

    public virtual void Rename(string from, string to) => _disk.Rename(from, to);

    public virtual void Delete(string path) => _disk.Delete(path);

    public bool Exists(string path) => _disk.Exists(path);

    public bool FolderExists(string path) => _disk.FolderExists(path);

    public void DeleteFolder(string path) => _disk.DeleteFolder(path);

    public virtual long FreeBytes(string folder) => _disk.FreeBytes(folder);

    public IReadOnlyList<string> List(string folder) => _disk.List(folder);

    public IReadOnlyList<string> Folders(string folder) => _disk.Folders(folder);
}

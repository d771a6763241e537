namespace Cursiva.Core.Files;

/// <summary>
/// The few file operations on which a promise depends. Tests put a double after it that forgets whatever was not flushed.
/// </summary>
public interface IDisk
{
    /// <summary>
    /// Opens a file for reading and writing at any place, and creates it when it is not there. A link of this name is not followed.
    /// </summary>
    /// <exception cref="IOException">It is a link, or cannot be opened.</exception>
    /// <param name="shared">A new file gets the rights of the umask, since people open it; otherwise mode 0600.</param>
    IDiskFile Open(string path, bool shared = false);

    /// <summary>Creates a file that must not be there yet, and opens it; otherwise like <see cref="Open"/>.</summary>
    /// <exception cref="IOException">There is a file or a link of this name.</exception>
    IDiskFile Create(string path, bool shared = false);

    /// <summary>Creates a folder and its missing parents, flushing the folder above each new one.</summary>
    /// <param name="shared">New folders get the rights of the umask; otherwise mode 0700.</param>
    void CreateFolder(string path, bool shared = false);

    /// <summary>Makes the names in a folder durable (fsync of the folder).</summary>
    void FlushFolder(string path);

    /// <summary>Puts a file under a new name, over whatever was there (rename(2), atomic).</summary>
    void Rename(string from, string to);

    /// <summary>Removes a file; nothing happens when it is not there.</summary>
    void Delete(string path);

    /// <summary>Whether there is a file of this path.</summary>
    bool Exists(string path);

    /// <summary>Whether there is a folder of this path.</summary>
    bool FolderExists(string path);

    /// <summary>Removes a folder with everything in it; nothing happens when it is not there.</summary>
    void DeleteFolder(string path);

    /// <summary>Bytes that may still be written where a folder is.</summary>
    long FreeBytes(string folder);

    /// <summary>Paths of the files directly in a folder, in ordinal order; empty when there is no such folder.</summary>
    IReadOnlyList<string> List(string folder);

    /// <summary>Names of the folders directly in a folder, in ordinal order; empty when there is no such folder.</summary>
    IReadOnlyList<string> Folders(string folder);
}

namespace Cursiva.Core.State;

/// <summary>Files of the state folder that other machines need as well; none where there is one machine.</summary>
public interface IStateFiles
{
    /// <summary>Shares a file, or the files of a folder, durably, in place of what was shared under their names.</summary>
    /// <param name="path">The absolute path, below the state folder.</param>
    Task PutAsync(string path, CancellationToken cancel);

    /// <summary>Brings a file, or the files of a folder, where they are not there yet.</summary>
    /// <param name="path">The absolute path, below the state folder.</param>
    Task BringAsync(string path, CancellationToken cancel);

    /// <summary>Shares a file, or the files of a folder, no longer.</summary>
    /// <param name="path">The absolute path, below the state folder.</param>
    Task RemoveAsync(string path, CancellationToken cancel);
}

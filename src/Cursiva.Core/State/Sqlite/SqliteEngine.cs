using Cursiva.Core.Files;

namespace Cursiva.Core.State;

/// <summary>State in the state folder of this machine.</summary>
/// <param name="isToRead">Whether root may look at the folder of another user.</param>
public sealed class SqliteEngine(StateFolder folder, IDisk disk, TimeProvider clock, bool isToRead = false) : IStateEngine
{
    private bool IsTogether { get; init; }

    /// <inheritdoc/>
    public Task<IState> OpenAsync(CancellationToken cancel)
    {
        if (isToRead)
            folder.PrepareToRead(disk);
        else
            folder.Prepare(disk);
        return Task.FromResult(SqliteState.Open(folder.Database, clock, IsTogether));
    }

    /// <inheritdoc/>
    public IStateEngine ForTogether() => new SqliteEngine(folder, disk, clock, isToRead) { IsTogether = true };
}

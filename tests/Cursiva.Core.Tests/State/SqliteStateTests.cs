using Cursiva.Core.Files;
using Cursiva.Core.State;

namespace Cursiva.Core.Tests.State;

public sealed class SqliteStateTests : StateContract
{
    private readonly TemporaryFolder _folder = new();

    protected override Task<IStateEngine> EngineAsync() =>
        Task.FromResult<IStateEngine>(new SqliteEngine(new StateFolder(_folder["state"]), new Disk(), TimeProvider.System));

    public override async ValueTask DisposeAsync()
    {
        await base.DisposeAsync();
        _folder.Dispose();
    }
}

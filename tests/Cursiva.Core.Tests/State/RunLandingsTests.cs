using Cursiva.Core.Files;
using Cursiva.Core.State;

namespace Cursiva.Core.Tests.State;

public sealed class RunLandingsTests : SharedLandingContract
{
    protected override Task<IState> OpenAsync() => new SqliteEngine(new StateFolder(_folder["state"]), new Disk(), TimeProvider.System).ForTogether().OpenAsync(default);
}

using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Identity;

/// <summary>What signing in works with, on a folder of the test's own and a server in memory.</summary>
internal sealed class SignInFixture : IAsyncDisposable
{
    private readonly TemporaryFolder _folder = new();

    public SignInFixture() => State = SqliteState.Open(_folder["state.db"], Clock);

    public IState State { get; }

    public string Folder => _folder.Path;

    public SilentWatch Watch { get; } = new();

    public QuickClock Clock { get; } = new();

    public Redactor Redactor { get; } = new();

    public Dictionary<string, string> Variables { get; } = new() { ["S"] = "s cr+t%" };

    public SignInServices Services(HttpMessageHandler server) =>
        SignInServices.Of(State, new StateFolder(Folder), new Disk(), Redactor, Variables.GetValueOrDefault, Folder, Clock, () => 0.5, Watch, Watch)
            with
        { Senders = new HttpSenders(Clock, Folder, server) };

    public static DeclaredIdentity Identity(string grant = Grants.ClientCredentials) => new("app", new Place("job"), grant)
    {
        TokenEndpoint = new Uri("https://login.example/token"),
        ClientId = "my:id",
        ClientAuth = [ClientAuths.Basic],
        Secrets = [SecretSource.TryParse("env:S")!],
        Scope = ["a", "b"],
    };

    public async ValueTask DisposeAsync()
    {
        await State.DisposeAsync();
        _folder.Dispose();
    }
}

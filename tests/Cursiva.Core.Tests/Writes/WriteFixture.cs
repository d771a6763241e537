using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Runs;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;
using Cursiva.Core.Tables;
using Cursiva.Core.Tests.Http;
using Cursiva.Core.Writes;

namespace Cursiva.Core.Tests.Writes;

/// <summary>A job that writes, its ledger, and the office that it writes to.</summary>
internal sealed class WriteFixture : IAsyncDisposable
{
    public const string FindOrCreate = """
        find: { get: "/documents{?title}", query: { title: "{row.name}" }, rows: /items, where: { /title: "{row.name}" }, paging: { next-link: /next, optional: true } }
        update: { when: found, patch: "/documents/{find.id}", body: { body: "{row.page}" } }
        create: { when: not-found, post: /documents, body: { title: "{row.name}", body: "{row.page}" } }
        """;

    private readonly TemporaryFolder _folder = new();

    public WriteFixture() => State = SqliteState.Open(_folder["state.db"], Clock);

    public IState State { get; }

    public FakeOffice Office { get; } = new();

    public QuickClock Clock { get; } = new();

    public List<string> Told { get; } = [];

    public string this[string file] => _folder[file];

    public string Write(string file, string text) => _folder.Write(file, text);

    /// <summary>Enters the items of a run, unless that was done, and works on whatever is pending, as one start of a process does.</summary>
    /// <param name="items">Rows as JSON objects; their key is id.</param>
    public async Task<LedgerEntry?> RunAsync(string steps, string items, int run = 1, string keys = "", IState? state = null, string api = "base: https://office.example/v2")
    {
        state ??= State;
        var job = Read(steps, keys, api);
        var services = SignInServices.Of(state, new StateFolder(_folder.Path), new Disk(), new Redactor(), name => name == "SECRET" ? "the-secret-of-the-office" : null, _folder.Path, Clock, () => 0, new SilentWatch(), new SilentWatch()) with { Senders = new HttpSenders(Clock, _folder.Path, Office) };
        using var signIns = new SignIns(services);
        await using var clients = new ApiClients(job, signIns, services);
        var ledger = new LedgerBook(state, "job", Clock);
        var desk = new WriteDesk(job, ledger, state, "job", services, new Outbox(new Disk(), _folder["outbox"]), clients.OfAsync, Told.Add);
        var file = _folder.Write($"{run}.items", string.Concat(JsonNode.Parse(items)!.AsArray().Select(row => Line(row!.AsObject()) + "\n")));
        await desk.EnterAsync(run, new Dictionary<string, string> { ["documents"] = file }, CancellationToken.None);
        var handled = await desk.SendAsync([], CancellationToken.None);
        Rows = await desk.RowsAsync(run, new Dictionary<string, string> { ["documents"] = file }, CancellationToken.None);
        return handled is [.., var last] ? last : null;
    }

    /// <summary>What became of the items of the run that was last.</summary>
    public IReadOnlyList<WrittenRow> Rows { get; private set; } = [];

    public async Task DecideAsync(string steps, LedgerPhase phase, string id = "documents-1", string keys = "")
    {
        var job = Read(steps, keys, "base: https://office.example/v2");
        var services = SignInServices.Of(State, new StateFolder(_folder.Path), new Disk(), new Redactor(), _ => null, _folder.Path, Clock, () => 0, new SilentWatch(), new SilentWatch());
        var ledger = new LedgerBook(State, "job", Clock);
        var desk = new WriteDesk(job, ledger, State, "job", services, new Outbox(new Disk(), _folder["outbox"]), (_, _, _) => throw new InvalidOperationException(), Told.Add);
        await desk.DecideAsync((await ledger.FindAsync(id, CancellationToken.None))!, phase, CancellationToken.None);
    }

    /// <summary>Decides about one item, by its name in the ledger.</summary>
    public async Task<LedgerEntry> DecideItemAsync(string name, LedgerPhase phase)
    {
        var items = new ItemDecision(new LedgerBook(State, "job", Clock), State, "job", Clock);
        return await items.TakeAsync((await items.EntryOfAsync(name, CancellationToken.None))!, name, phase, CancellationToken.None);
    }

    public Job Read(string steps, string keys, string api) => JobReader.Read(_folder.Write("job.cursiva.yaml", $$"""
        cursiva: 1
        name: job
        apis:
          office: { {{api}}, timeout: 30s }
        pulls: { p: { get: /, rows: "" } }
        writes:
          documents:
            sql: select 1
            key: [id]
            {{keys.ReplaceLineEndings("\n    ")}}
            steps:
              {{steps.ReplaceLineEndings("\n      ")}}
        """), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);

    public async ValueTask DisposeAsync()
    {
        await State.DisposeAsync();
        Office.Dispose();
        _folder.Dispose();
    }

    private static string Line(JsonObject row)
    {
        var values = row.ToDictionary(pair => $"row.{pair.Key}", pair => pair.Value?.ToJsonString() ?? "null");
        return JsonSerializer.Serialize(new { key = $"[{values["row.id"]}]", digest = row.ToJsonString(), values });
    }
}

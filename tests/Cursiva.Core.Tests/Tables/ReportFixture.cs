using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Reports;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Tests.Tables;

/// <summary>Landed rows, staged, and reports written from them.</summary>
internal sealed class ReportFixture : IDisposable
{
    private readonly TemporaryFolder _folder = new();
    private readonly Disk _disk = new();

    public ReportFixture() => Database = new Database(_folder.Path, 256 * 1024 * 1024);

    public Database Database { get; }

    public string Folder => _folder.Path;

    /// <summary>Lands rows, a page each, and stages them as a table.</summary>
    public async Task<IReadOnlyList<KnownColumn>> StageAsync(string pull, IEnumerable<string> pages, IReadOnlyList<Column>? columns = null, IReadOnlyList<KnownColumn>? lastSeen = null)
    {
        await using var landing = new RunLanding(_disk, _folder["landing-" + pull], TimeProvider.System);
        var landed = landing.Open(pull);
        foreach (var page in pages)
            landed.Append(StrandKey.Only, Encoding.UTF8.GetBytes(page + "\n"), page.Count(c => c == '\n') + 1, "next");
        await landing.CommitAsync(CancellationToken.None);
        var table = new PullTable(Database);
        var known = table.Stage(Declared(pull, columns), [landing.Read(pull)], lastSeen ?? [], CancellationToken.None);
        NamesTwice = table.NamesTwice;
        return known;
    }

    /// <summary>Lands rows of strands and of several runs, and stages their newest state.</summary>
    /// <param name="runs">Of each run its strands: what they carry, and a row.</param>
    public async Task StageRunsAsync(Pull pull, params IReadOnlyList<(string Carried, string Row)>[] runs)
    {
        var landings = new List<RunLanding>();
        foreach (var strands in runs)
        {
            var landing = new RunLanding(_disk, _folder[$"run-{landings.Count}"], TimeProvider.System);
            landings.Add(landing);
            var landed = landing.Open(pull.Name);
            for (var i = 0; i < strands.Count; i++)
            {
                landed.Put(new LandedStrand(pull.Name, StrandKey.Of("", 0, i), "{}", strands[i].Carried, ""));
                landed.Append(StrandKey.Of("", 0, i), Encoding.UTF8.GetBytes(strands[i].Row + "\n"), 1, null);
            }

            await landing.CommitAsync(CancellationToken.None);
        }

        new PullTable(Database).Stage(pull, [.. landings.Select(landing => landing.Read(pull.Name))], [], CancellationToken.None);
        foreach (var landing in landings)
            await landing.DisposeAsync();
    }

    public long NamesTwice { get; private set; }

    /// <summary>Writes a report and returns the text of its file.</summary>
    public string Write(string sql, string file = "out.csv")
    {
        var report = new Report("r", new Place("job"), sql, new Place("job", 10, 1), 6, [Template.TryParse(file, out _)!]);
        new ReportFiles(_disk, Database).Write(report, _folder.Path, _ => null, _folder["list"], CancellationToken.None);
        return File.ReadAllText(_folder[file]);
    }

    public void Dispose()
    {
        Database.Dispose();
        _folder.Dispose();
    }

    public static Column Of(string name, ColumnType type, string? at = null) => new(name, at is null ? JsonPointer.ToField(name) : JsonPointer.TryParse(at)!, type);

    public static Pull Declared(string name, IReadOnlyList<Column>? columns) =>
        new(name, new Place("job"), "api", new PullRequest("GET", "/"), new RowSource(RowsForm.Array, JsonPointer.TryParse("")!), new Paging(PagingStyle.OnePage), columns ?? []);
}

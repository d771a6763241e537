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
    private readonly List<RunLanding> _landings = [];

    public ReportFixture() => Database = new Database(_folder.Path, 256 * 1024 * 1024);

    public Database Database { get; }

    /// <summary>Whether rows are read from the landing rather than staged.</summary>
    public bool Streams { get; set; }

    /// <summary>Whether a text that is not text is an error.</summary>
    public bool RefusesOddText { get; set; }

    public string Folder => _folder.Path;

    /// <summary>Lands rows, a page each, and stages them as a table, or lets it be read from the landing.</summary>
    public async Task<IReadOnlyList<KnownColumn>> StageAsync(string pull, IEnumerable<string> pages, IReadOnlyList<Column>? columns = null, IReadOnlyList<KnownColumn>? lastSeen = null, string schema = PullTable.Present)
    {
        var landing = new RunLanding(_disk, _folder[$"landing-{schema}-{pull}"], TimeProvider.System);
        _landings.Add(landing);
        var landed = landing.Open(pull);
        foreach (var page in pages)
            landed.Append(StrandKey.Only, Encoding.UTF8.GetBytes(page + "\n"), page.Count(c => c == '\n') + 1, "next");
        await landing.CommitAsync(CancellationToken.None);
        var table = new PullTable(Database, schema);
        var known = table.Stage(Declared(pull, columns) with { RefusesOddText = RefusesOddText }, [landing.Read(pull)], lastSeen ?? [], CancellationToken.None, streams: Streams);
        NamesTwice = table.NamesTwice;
        Notices = table.Notices;
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

    /// <summary>What was told of the values that were staged last.</summary>
    public IReadOnlyList<string> Notices { get; private set; } = [];

    /// <summary>Writes a report of one table and returns the text of its file.</summary>
    public string Write(string sql, string file = "out.csv", CsvForm? csv = null)
    {
        WriteFiles([Table(sql)], [file], csv);
        return Encoding.UTF8.GetString(File.ReadAllBytes(_folder[file]));
    }

    /// <summary>Writes a report of several parts.</summary>
    /// <param name="before">What the last good run had.</param>
    /// <returns>What the next run would compare with.</returns>
    public ReportTotals WriteFiles(IReadOnlyList<Part> parts, IReadOnlyList<string> files, CsvForm? csv = null, string? filePer = null, ReportTotals? before = null, IDisk? disk = null, ReportContext? context = null, IReadOnlyList<string>? ofBefore = null)
    {
        var totals = ReportTotals.None;
        Written = new ReportFiles(disk ?? _disk, Database, _folder["work"], _ => { }, _ => { }).Write(ReportOf(parts, files, csv, filePer), context ?? Context, _folder.Path, name => name == "run.date" ? "2026-03-09" : null, _folder["list"], before ?? ReportTotals.None, totals, ofBefore ?? [], CancellationToken.None);
        return totals;
    }

    /// <summary>The files that were written last.</summary>
    public IReadOnlyList<WrittenFile> Written { get; private set; } = [];

    public string this[string file] => _folder[file];

    public static ReportContext Context { get; } = new("Weekly", 7, new DateTimeOffset(2026, 3, 9, 2, 0, 0, TimeSpan.FromHours(1)), TimeZoneInfo.FindSystemTimeZoneById("Europe/Oslo"), "0.1.0", [new SourceLine("t", "api.brackwater.example", 1234567)], [], [], [], 6, "2 March 2026");

    /// <summary>A part; its SQL stands at line 10 of the job, indented by 6.</summary>
    public static Part PartOf(string name, PartKind kind, string? sql, string? unit = null, Requirements? require = null, string? words = null, IReadOnlyList<Threshold>? thresholds = null) =>
        new(name, new Place("job"), kind, name, sql is null ? null : new SqlSource(sql, new Place("job", 10, 1), 6), words is null ? null : Template.TryParse(words, out _), unit, require ?? Requirements.None) { Thresholds = thresholds ?? [] };

    public static Part Table(string sql, Requirements? require = null) => PartOf("r", PartKind.Table, sql, require: require);

    private static Report ReportOf(IReadOnlyList<Part> parts, IReadOnlyList<string> files, CsvForm? csv, string? filePer) =>
        new("r", new Place("job"), "The report", parts, [.. files.Select(file => new ReportFile(Template.TryParse(file, out _)!, new Place("job"), FileSuffixes.Of(file)!.Value.Format, FileSuffixes.Of(file)!.Value.Packing))], csv ?? CsvForm.Plain, filePer);

    public void Dispose()
    {
        Database.Dispose();
        foreach (var landing in _landings)
            landing.DisposeAsync().AsTask().GetAwaiter().GetResult();
        _folder.Dispose();
    }

    public static Column Of(string name, ColumnType type, string? at = null) => new(name, at is null ? JsonPointer.ToField(name) : JsonPointer.TryParse(at)!, type);

    public static Pull Declared(string name, IReadOnlyList<Column>? columns) =>
        new(name, new Place("job"), "api", new PullRequest("GET", "/"), new RowSource(RowsForm.Array, JsonPointer.TryParse("")!), Paging.OnePage, columns ?? []);
}

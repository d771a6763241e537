using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;

namespace Cursiva.Core.Tables;

/// <summary>Makes the landed rows of a pull an SQL table: staged as text, then typed where the cast is exact.</summary>
/// <param name="schema">Where the table is.</param>
public sealed class PullTable(Database database, string schema = PullTable.Present)
{
    /// <summary>The schema of this run's tables.</summary>
    public const string Present = "main";

    private const string Hidden = "_hidden_";

    private readonly string _texts = schema == Present ? "landed" : schema + "_landed";

    /// <summary>Names that stood twice in one row; the last value counts.</summary>
    public long NamesTwice { get; private set; }

    /// <summary>What the user should know of the values.</summary>
    public IReadOnlyList<string> Notices { get; private set; } = [];

    /// <summary>Stages a pull.</summary>
    /// <param name="rows">The landings of its rows, oldest first; of a key, the newest row counts.</param>
    /// <param name="lastSeen">The columns of the last run, for a pull that brings no rows, or a column without values.</param>
    /// <param name="streams">Whether rows are walked over in the landing whenever they are asked for, and not staged; see
    /// <see cref="CanStream"/>.</param>
    /// <returns>The columns of the table.</returns>
    /// <exception cref="TableException">A value does not fit the type that was declared for its column.</exception>
    public IReadOnlyList<KnownColumn> Stage(
        Pull pull, IReadOnlyList<LandedRows> rows, IReadOnlyList<KnownColumn> lastSeen, CancellationToken cancel, bool streams = false)
    {
        database.Execute($"create schema if not exists {_texts}; create schema if not exists {schema};");
        var shape = Look(ShapeOf(pull), rows, onlyFirstPage: true, cancel);
        if (!TryMake(pull, shape, rows, streams, cancel))
        {
            // A later row had a field or a kind that the first page had not: learn from all rows, then walk over them once more.
            shape = Look(ShapeOf(pull), rows, onlyFirstPage: false, cancel);
            if (!TryMake(pull, shape, rows, streams, cancel))
                throw new InvalidOperationException($"the rows of pull '{pull.Name}' changed while they were read");
        }

        var types = new DeclaredTypes(database, pull, $"{_texts}.{Database.Quoted(pull.Name)}");
        var columns = Columns(pull, shape, types, lastSeen, rows.Sum(source => source.Count) == 0);
        types.Check();
        Notices =
        [
            .. types.Notices,
            .. shape.Columns.Where(column => column.OddTexts.Count > 0).Select(column => OddTextsOf(pull, column)),
        ];
        CreateView(pull, columns, shape, types, NewestOnly(pull, shape));
        return [.. columns.Where(column => !IsHidden(column.Name))];
    }

    /// <summary>
    /// Whether a table can be read from the landing: its rows are those that landed, and none is looked for by its place.
    /// </summary>
    public static bool CanStream(Pull pull) => !pull.GoesOnFromRuns;

    private static RowShape Look(RowShape shape, IReadOnlyList<LandedRows> rows, bool onlyFirstPage, CancellationToken cancel)
    {
        var walker = new RowWalker(shape, null, int.MaxValue);
        using var stop = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        try
        {
            foreach (var source in rows)
            {
                source.Read(
                    (strand, lines) =>
                    {
                        walker.Walk(lines, source.Carried(strand));
                        if (onlyFirstPage)
                            stop.Cancel();
                    },
                    stop.Token);
            }
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            // The first page was enough.
        }

        foreach (var column in shape.Columns)
            column.KeepsQuotes = shape.TypeOf(column) is { } type ? type == ColumnType.Json : column.IsMixed;
        return shape;
    }

    private bool TryMake(Pull pull, RowShape shape, IReadOnlyList<LandedRows> rows, bool streams, CancellationToken cancel)
    {
        List<string> names = shape.Columns.Count > 0 ? [.. shape.Columns.Select(column => column.Name)] : ["_"];
        var table = $"{_texts}.{Database.Quoted(pull.Name)}";
        if (streams && shape.Columns.Count > 0)
        {
            using var pool = new BlockPool(names.Count);
            if (!TryWalk(shape, rows, pool.Rent, pool.Return, cancel))
                return false;
            // Where the first page had no columns, there is a table already.
            database.Execute(
                $"drop table if exists {table}; create or replace view {table} as select * from {database.Publish(names, () => new RowScan(rows, shape))}()");
            return true;
        }

        database.Execute(
            $"create or replace table {table} ({string.Join(", ", names.Select(name => Database.Quoted(name) + " varchar"))});");
        using var appender = database.Append(_texts, pull.Name, names.Count);
        if (!TryWalk(shape, rows, appender.Rent, appender.Add, cancel))
            return false;
        appender.Finish();
        return true;
    }

    private bool TryWalk(
        RowShape shape, IReadOnlyList<LandedRows> rows, Func<TextBlock> rent, Action<TextBlock> take, CancellationToken cancel)
    {
        var blocks = new LandedBlocks(rows, shape.Copy, rent);
        foreach (var block in blocks.Read(cancel))
            take(block);
        NamesTwice = blocks.NamesTwice;
        return blocks.Teach(shape);
    }

    private static List<KnownColumn> Columns(
        Pull pull, RowShape shape, DeclaredTypes types, IReadOnlyList<KnownColumn> lastSeen, bool isEmpty)
    {
        if (shape.Columns.Count == 0 || (isEmpty && shape.FindsColumns && lastSeen.Count > 0))
            return [.. lastSeen];

        // What is taken along stands first, as it does in the mind of whoever reads the table.
        var carried = pull.Carry.Select(pair => shape.Carried.Named(pair.Key)!.Column!).ToList();
        return [.. carried.Concat(shape.Columns.Except(carried)).Select(
            column => new KnownColumn(
                column.Name, shape.TypeOf(column) is { } type ? types.TypeOf(type, column) : FoundType(column, lastSeen)))];
    }

    private static string OddTextsOf(Pull pull, FoundColumn column) =>
        $"column '{column.Name}' of pull '{pull.Name}' has half of a surrogate pair in row {column.OddTexts.Row}, which is not text; it is kept as its JSON escape (odd-text: refuse makes it an error)";

    // A column without any value says nothing against what it was.
    private static string FoundType(FoundColumn column, IReadOnlyList<KnownColumn> lastSeen) =>
        column.Kinds == ValueKinds.None && lastSeen.FirstOrDefault(
            known => known.Name.Equals(column.Name, StringComparison.OrdinalIgnoreCase)) is { } known
            ? known.SqlType
            : column.SqlType();

    /// <summary>The columns that a pull declares, and those that its newest rows are found by.</summary>
    internal static RowShape ShapeOf(Pull pull)
    {
        IEnumerable<JsonPointer> needed = pull.GoesOnFromRuns ? pull.Key.Concat(pull.DeletedWhen is { } deleted ? [deleted.At] : []) : [];
        List<Column> declared = [.. pull.Columns];
        if (declared.Count > 0)
            declared.AddRange(
                needed.Where(at => !declared.Exists(column => column.At.Text == at.Text)).Select(
                    (at, place) => new Column(Hidden + place, at, ColumnType.Json)));
        return new RowShape(declared, pull.Carry.Select(pair => pair.Key)) { RefusesOddText = pull.RefusesOddText };
    }

    // For a pull that goes on from earlier runs: of each key the newest row, unless it says that it is gone.
    private string NewestOnly(Pull pull, RowShape shape)
    {
        if (!pull.GoesOnFromRuns || shape.Columns.Count == 0)
            return "";
        var key = pull.Key
            .Select(
                at => shape.ColumnAt(at) is { } column
                    ? Database.Quoted(column.Name)
                    : throw new TableException($"no row has anything at key: {at}"))
            .ToList();
        key.AddRange(pull.Carry.Select(pair => Database.Quoted(shape.Carried.Named(pair.Key)!.Column!.Name)));
        var newest = $" where rowid in (select max(rowid) from {_texts}.{Database.Quoted(pull.Name)} group by {string.Join(", ", key)})";
        if (pull.DeletedWhen is not { } gone || shape.ColumnAt(gone.At) is not { } at)
            return newest;
        var (name, json) = (Database.Quoted(at.Name), at.KeepsQuotes);
        var isGone = gone.Is == Probe.Anything
            ? $"{name} is not null and {name} <> 'false'"
            : $"{name} = {Database.Literal(gone.Is)} or {name} = {Database.Literal(json ? System.Text.Json.JsonSerializer.Serialize(gone.Is, TableJson.Default.String) : gone.Is)}";
        return $"{newest} and not coalesce({isGone}, false)";
    }

    private static bool IsHidden(string name) => name.StartsWith(Hidden, StringComparison.Ordinal);

    private void CreateView(Pull pull, IReadOnlyList<KnownColumn> columns, RowShape shape, DeclaredTypes types, string newestOnly)
    {
        var table = Database.Quoted(pull.Name);
        if (columns.Count == 0)
        {
            database.Execute($"create or replace view {schema}.{table} as select * from {_texts}.{table}");
            return;
        }

        var filled = shape.Columns.Select(column => column.Name).ToHashSet();
        // Chosen by a plain group before the casts: with a window function the engine confuses the text columns with the cast ones.
        var source = newestOnly.Length == 0
            ? $"{_texts}.{table}"
            : $"(select *, rowid as {Hidden}row from {_texts}.{table}{newestOnly}) order by {Hidden}row";
        var list = columns.Where(column => !IsHidden(column.Name)).Select(column =>
        {
            var name = Database.Quoted(column.Name);
            return $"cast({(filled.Contains(column.Name) ? types.Value(column) : "null")} as {column.SqlType}) as {name}";
        });
        database.Execute($"create or replace view {schema}.{table} as select {string.Join(", ", list)} from {source}");
    }
}

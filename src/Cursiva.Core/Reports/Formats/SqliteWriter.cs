using System.Buffers.Text;
using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Reports;

/// <summary>
/// A SQLite file with a table for each part. SQLite has no decimals, times and booleans: decimals and times are texts as they
/// are written everywhere else, so that no digit is lost, and true is 1.
/// </summary>
/// <param name="stream">Takes the finished file.</param>
/// <param name="scratchPath">Where the file is made; nothing may be there.</param>
internal sealed class SqliteWriter(Stream stream, string scratchPath) : IReportWriter
{
    /// <summary>What it writes.</summary>
    public static IReadOnlyList<WrittenFormat> Declared { get; } =
    [
        new(target => new SqliteWriter(target.Stream, target.ScratchPath + ".sqlite"))
        {
            Suffix = ".sqlite",
            Holds = FormatHolds.Everything,
            MayBePacked = false,
        },
    ];

    // The library's SQLITE_MAX_COLUMN.
    private const int MostColumns = 2000;

    private readonly HashSet<string> _tables = new(StringComparer.OrdinalIgnoreCase);
    private SqliteConnection? _connection;
    private SqliteTransaction? _transaction;
    private SqliteCommand? _insert;
    private IReadOnlyList<ResultColumn> _columns = [];

    public void Begin(PartHead head)
    {
        if (head.Columns.Count == 0)
            return;
        if (head.Columns.Count > MostColumns)
            throw new TableException(
                $"part '{head.Part.Name}' has {head.Columns.Count:N0} columns, but a SQLite table can have at most {MostColumns:N0}; select fewer, or write another format");
        Open();
        _columns = head.Columns;
        var name = head.Part.Name;
        for (var n = 2; !_tables.Add(name); n++)
            name = $"{head.Part.Name}_{n}";
        using (var create = _connection!.CreateCommand())
        {
            create.CommandText =
                $"create table {Database.Quoted(name)} ({string.Join(", ", _columns.Select(column => $"{Database.Quoted(column.Name)} {TypeOf(column)}"))})";
            create.ExecuteNonQuery();
        }

        _insert = _connection.CreateCommand();
        _insert.CommandText =
            $"insert into {Database.Quoted(name)} values ({string.Join(", ", _columns.Select((_, place) => $"@c{place}"))})";
        for (var place = 0; place < _columns.Count; place++)
            _insert.Parameters.Add(new SqliteParameter($"@c{place}", DBNull.Value));
        _insert.Prepare();
    }

    public void Row(TextRows rows)
    {
        if (_insert is null)
            return;
        for (var column = 0; column < _columns.Count; column++)
            _insert.Parameters[column].Value = rows.IsNull(column) ? DBNull.Value : Value(rows.Value(column), _columns[column]);
        _insert.ExecuteNonQuery();
    }

    public void EndPart()
    {
        _insert?.Dispose();
        _insert = null;
    }

    public void End()
    {
        Open();
        _transaction!.Commit();
        Close();
        using var made = new FileStream(scratchPath, FileMode.Open, FileAccess.Read);
        made.CopyTo(stream, 1 << 20);
    }

    public void Dispose()
    {
        Close();
        File.Delete(scratchPath);
    }

    private void Open()
    {
        if (_connection is not null)
            return;
        File.Delete(scratchPath);
        _connection = new SqliteConnection(new SqliteConnectionStringBuilder { DataSource = scratchPath, Pooling = false }.ToString());
        _connection.Open();
        using var settings = _connection.CreateCommand();

        // The file appears whole or not at all, so it needs no journal of its own.
        foreach (var setting in new[] { "pragma journal_mode = off", "pragma synchronous = off" })
        {
            settings.CommandText = setting;
            settings.ExecuteNonQuery();
        }

        _transaction = _connection.BeginTransaction();
    }

    private void Close()
    {
        _insert?.Dispose();
        _transaction?.Dispose();
        _connection?.Dispose();
        (_insert, _transaction, _connection) = (null, null, null);
    }

    private static string TypeOf(ResultColumn column) => column.Form switch
    {
        ValueForm.Whole when IsWide(column) => "text",
        ValueForm.Whole or ValueForm.Boolean => "integer",
        ValueForm.Float => "real",
        ValueForm.Text or ValueForm.Decimal or ValueForm.Date or ValueForm.Time or ValueForm.Json => "text",
    };

    private static bool IsWide(ResultColumn column) =>
        column.SqlType is "HUGEINT" or "UHUGEINT" or "UBIGINT" || column.SqlType.StartsWith("DECIMAL", StringComparison.Ordinal);

    private static object Value(ReadOnlySpan<byte> text, ResultColumn column) => column.Form switch
    {
        ValueForm.Boolean => text[0] == 't' ? 1L : 0L,
        ValueForm.Whole when !IsWide(column) && Utf8Parser.TryParse(text, out long whole, out var used) && used == text.Length => whole,
        ValueForm.Float when double.TryParse(text, System.Globalization.CultureInfo.InvariantCulture, out var number) => number,
        _ => Encoding.UTF8.GetString(text),
    };
}

using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tables;

/// <summary>Gives declared columns their SQL types, once every staged text was found to fit.</summary>
/// <param name="texts">The staged table, whose columns are texts.</param>
internal sealed class DeclaredTypes(Database database, Pull pull, string texts)
{
    private const string RowNumber = "_row_number_";

    // A time of day, and after it Z, an offset or the name of a zone.
    private const string WithOffset = @"'[Tt ][0-9:.,]+ ?([A-Za-z][A-Za-z_/]*|[+-][0-9]{2}(:?[0-9]{2}){0,2})$'";

    // The engine's times have microseconds.
    private const string FinerThanKept = @"'[.,][0-9]{6}0*[1-9]'";

    private readonly List<DeclaredForm> _forms = [];
    private readonly List<string> _notices = [];

    /// <summary>What the user should know of the columns.</summary>
    public IReadOnlyList<string> Notices => _notices;

    /// <summary>The SQL type of a declared column.</summary>
    /// <exception cref="TableException">A value of a column of decimals or times does not fit.</exception>
    public string TypeOf(ColumnType type, FoundColumn column)
    {
        var name = Database.Quoted(column.Name);
        switch (type)
        {
            case ColumnType.Integer:
                Require(column, $"coalesce(try_cast({name} as bigint)::varchar, '') <> {name}", "a whole number of at most 18 digits");
                return "BIGINT";
            case ColumnType.Decimal:
                return column.Kinds == ValueKinds.None ? "DECIMAL(18,2)" : column.WidestDecimal() ?? DecimalOf(column);
            case ColumnType.Boolean:
                Require(column, $"{name} not in ('true', 'false')", "true or false");
                return "BOOLEAN";
            case ColumnType.Date:
                Require(column, $"coalesce(try_cast({name} as date)::varchar, '') <> {name}", "a date such as 2026-03-02");
                return "DATE";
            case ColumnType.Time:
                return TimeOf(column);
            case ColumnType.Json:
                return "JSON";
            default:
                return "VARCHAR";
        }
    }

    /// <summary>Checks what was required of the columns so far.</summary>
    /// <exception cref="TableException">A value does not fit; names column, row and value, and what would fit.</exception>
    public void Check()
    {
        if (_forms.Count == 0)
            return;
        var wrong = database.All(
            $"select {string.Join(", ", _forms.Select(form => $"count(*) filter (where {form.IsWrong})::varchar"))} from {texts}")[0];
        foreach (var (form, _) in _forms.Zip(wrong).Where(pair => pair.Second != "0"))
        {
            var (value, row) = First(form.Column, form.IsWrong);
            throw new TableException($"column '{form.Column}' of pull '{pull.Name}' has '{value}' in row {row}; it should be {form.Right}");
        }

        _forms.Clear();
    }

    /// <summary>SQL that gives the value of a column from its staged text.</summary>
    public string Value(KnownColumn column)
    {
        var name = Database.Quoted(column.Name);
        if (column.SqlType != "TIMESTAMP")
            return name;
        var instant = ZoneOf(column.Name) is { } zone
            ? $"case when regexp_matches({name}, {WithOffset}) then cast({name} as timestamptz) else timezone({Database.Literal(zone)}, cast({name} as timestamp)) end"
            : $"cast({name} as timestamptz)";
        return $"make_timestamp(epoch_us({instant}))";
    }

    // Decimals that came as texts, or in a form that only SQL's own grammar knows.
    private string DecimalOf(FoundColumn column)
    {
        var name = Database.Quoted(column.Name);
        Require(
            column,
            $"not regexp_full_match({name}, '-?[0-9]+(\\.[0-9]+)?') or regexp_full_match({name}, '-0+(\\.0+)?')",
            "a decimal number such as 12.50; declare the column as json to keep numbers as written");
        Check();
        var digits = database.All(
            $"select max(length(regexp_extract({name}, '^-?0*([0-9]*)', 1)))::varchar, max(length(regexp_extract({name}, '\\.([0-9]+)', 1)))::varchar from {texts}")[0];
        var (whole, scale) = (
            int.Parse(digits[0] ?? "0", System.Globalization.CultureInfo.InvariantCulture),
            int.Parse(digits[1] ?? "0", System.Globalization.CultureInfo.InvariantCulture));
        return whole + scale <= FoundColumn.LargestDecimal
            ? $"DECIMAL({Math.Max(1, whole + scale)},{scale})"
            : throw new TableException(
                $"column '{column.Name}' of pull '{pull.Name}' has numbers of {whole} digits before the point and {scale} after it, but a decimal keeps {FoundColumn.LargestDecimal} in all; declare the column as json");
    }

    // A time without an offset is not an instant: nobody knows whose clock it was.
    private string TimeOf(FoundColumn column)
    {
        var name = Database.Quoted(column.Name);
        var hasZone = ZoneOf(column.Name) is not null;
        Require(column, $"try_cast({name} as timestamptz) is null", "a time such as 2026-03-02T08:00:00Z");
        Require(
            column,
            $"regexp_matches({name}, {FinerThanKept})",
            "a time with at most six digits after the second; declare the column as text to keep it as written");
        Check();
        var without = $"{name} is not null and not regexp_matches({name}, {WithOffset})";
        if (hasZone || database.All($"select count(*)::varchar from {texts} where {without}")[0][0] == "0")
            return "TIMESTAMP";
        var (value, row) = First(column.Name, without);
        _notices.Add($"column '{column.Name}' of pull '{pull.Name}' has a time without an offset ('{value}' in row {row}), so the column stays text; say which clock it follows:  {column.Name}: {{ type: time, zone: Europe/Oslo }}, or zone: of the API");
        return "VARCHAR";
    }

    private string? ZoneOf(string column) => pull.Columns.FirstOrDefault(declared => declared.Name == column)?.Zone;

    private void Require(FoundColumn column, string wrong, string right) =>
        _forms.Add(new DeclaredForm(column.Name, $"{Database.Quoted(column.Name)} is not null and ({wrong})", right));

    private (string Value, string Row) First(string column, string where)
    {
        var found = database.All(
            $"select {RowNumber}::varchar, {Database.Quoted(column)} from (select *, row_number() over () as {RowNumber} from {texts}) where {where} limit 1")[0];
        return (Secrets.OneLine.Of(found[1]!.Length <= 60 ? found[1]! : found[1]![..57] + "..."), found[0]!);
    }

    private sealed record DeclaredForm(string Column, string IsWrong, string Right);
}

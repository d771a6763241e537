namespace Cursiva.Core.Tables;

/// <summary>The columns of the tables that a query reads, for messages.</summary>
public static class TableColumns
{
    /// <summary>For example <c>consignments has reference, depot</c>; null when nothing is known.</summary>
    public static string? Tell(Database database, string sql)
    {
        try
        {
            var told = new List<string>();
            foreach (var table in SqlText.Read(database, sql).Tables)
            {
                var columns = database.All(
                    $"select column_name::varchar from duckdb_columns() where schema_name = {Database.Literal(table.Schema.Length == 0 ? PullTable.Present : table.Schema)} and lower(table_name) = lower({Database.Literal(table.Name)}) order by column_index").ConvertAll(
                    row => row[0]);
                if (columns.Count > 0)
                    told.Add($"{table.FullName} has {string.Join(", ", columns)}");
            }

            return told.Count == 0 ? null : string.Join("; ", told);
        }
        catch (SqlException)
        {
            return null;
        }
    }
}

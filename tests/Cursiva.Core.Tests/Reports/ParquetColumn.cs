using Parquet;
using Parquet.Schema;

namespace Cursiva.Core.Tests.Reports;

/// <summary>Reads one column of a Parquet file as text.</summary>
internal static class ParquetColumn
{
    public static async Task<List<string?>> ReadAsync(ParquetRowGroupReader group, DataField field)
    {
        if (field.ClrType == typeof(string))
        {
            var texts = new string?[group.RowCount];
            await group.ReadAsync(field, texts.AsMemory());
            return [.. texts];
        }

        var read = typeof(ParquetColumn).GetMethod(nameof(ValuesAsync), System.Reflection.BindingFlags.NonPublic | System.Reflection.BindingFlags.Static)!.MakeGenericMethod(field.ClrType);
        return await (Task<List<string?>>)read.Invoke(null, [group, field])!;
    }

    private static async Task<List<string?>> ValuesAsync<T>(ParquetRowGroupReader group, DataField field)
        where T : struct
    {
        var values = new T?[group.RowCount];
        await group.ReadAsync<T>(field, values.AsMemory());
        return [.. values.Select(value => ReadBack.Text(value))];
    }
}

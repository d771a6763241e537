using Npgsql;
using NpgsqlTypes;
using ZstdSharp;

namespace Cursiva.Core.State;

/// <summary>Pages of a landing on their way by binary COPY, their rows packed by zstd (RFC 8878).</summary>
internal static class CopiedPages
{
    /// <summary>The columns of a page, in their order.</summary>
    public const string Columns = "pull, strand, page, rows, length, checksum, next, piece, mark, ended, told, etag, lines";

    private const int PackLevel = 1;

    /// <summary>Puts pages into the database.</summary>
    /// <param name="id">The landing's number.</param>
    public static async Task WriteAsync(NpgsqlConnection connection, long id, IEnumerable<StoredPage> pages, CancellationToken cancel)
    {
        await using var copy = await connection.BeginBinaryImportAsync(
            $"copy cursiva.pages (landing, {Columns}) from stdin (format binary)", cancel);
        using var packer = new Compressor(PackLevel);
        foreach (var page in pages)
        {
            await copy.StartRowAsync(cancel);
            await copy.WriteAsync(id, NpgsqlDbType.Bigint, cancel);
            await copy.WriteAsync(page.Pull, NpgsqlDbType.Text, cancel);
            await copy.WriteAsync(page.Strand, NpgsqlDbType.Text, cancel);
            await copy.WriteAsync(page.Page, NpgsqlDbType.Integer, cancel);
            await copy.WriteAsync(page.Rows, NpgsqlDbType.Integer, cancel);
            await copy.WriteAsync(page.Length, NpgsqlDbType.Integer, cancel);
            await copy.WriteAsync(page.Checksum, NpgsqlDbType.Bigint, cancel);
            await TextAsync(copy, page.Next, cancel);
            await copy.WriteAsync(page.IsPiece, NpgsqlDbType.Boolean, cancel);
            await TextAsync(copy, page.Mark, cancel);
            await TextAsync(copy, page.Ended, cancel);
            if (page.Told is { } told)
                await copy.WriteAsync(told, NpgsqlDbType.Bigint, cancel);
            else
                await copy.WriteNullAsync(cancel);
            await TextAsync(copy, page.ETag, cancel);
            await copy.WriteAsync(page.Length == 0 ? [] : packer.Wrap(page.Lines().Span).ToArray(), NpgsqlDbType.Bytea, cancel);
        }

        await copy.CompleteAsync(cancel);
    }

    /// <summary>Reads the row of <see cref="Columns"/> at which a copy stands.</summary>
    public static async ValueTask<StoredPage> ReadAsync(NpgsqlBinaryExporter copy, Decompressor decompressor, CancellationToken cancel)
    {
        var (pull, strand) = (await copy.ReadAsync<string>(cancel), await copy.ReadAsync<string>(cancel));
        var (page, rows, length) = (await copy.ReadAsync<int>(
            cancel), await copy.ReadAsync<int>(cancel), await copy.ReadAsync<int>(cancel));
        var checksum = await copy.ReadAsync<long>(cancel);
        var next = await TextAsync(copy, cancel);
        var isPiece = await copy.ReadAsync<bool>(cancel);
        var (mark, ended) = (await TextAsync(copy, cancel), await TextAsync(copy, cancel));
        long? told = null;
        if (copy.IsNull)
            await copy.SkipAsync(cancel);
        else
            told = await copy.ReadAsync<long>(cancel);
        var etag = await TextAsync(copy, cancel);
        var packed = await copy.ReadAsync<byte[]>(cancel);
        return new StoredPage(
            pull,
            strand,
            page,
            rows,
            length,
            checksum,
            next,
            isPiece,
            mark,
            ended,
            told,
            etag,
            () => length == 0 ? default : decompressor.Unwrap(packed, length).ToArray());
    }

    private static async ValueTask<string?> TextAsync(NpgsqlBinaryExporter copy, CancellationToken cancel)
    {
        if (!copy.IsNull)
            return await copy.ReadAsync<string>(cancel);
        await copy.SkipAsync(cancel);
        return null;
    }

    private static Task TextAsync(NpgsqlBinaryImporter copy, string? text, CancellationToken cancel) =>
        text is null ? copy.WriteNullAsync(cancel) : copy.WriteAsync(text, NpgsqlDbType.Text, cancel);
}

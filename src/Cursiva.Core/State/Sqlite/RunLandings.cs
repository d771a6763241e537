using System.Runtime.CompilerServices;
using System.Text.Json;

namespace Cursiva.Core.State;

/// <summary>Landings that the processes of one machine share while they work on the same run; each lies in its run's file.</summary>
internal sealed class RunLandings(RunFiles files) : ILandings
{
    // So many pages are in memory at a time.
    private const int MostPages = 8;

    /// <inheritdoc/>
    public bool IsShared(string landing) => files.Find(landing) is not null;

    /// <inheritdoc/>
    public Task AddAsync(string landing, IReadOnlyList<StoredChange> changes, CancellationToken cancel) =>
        WriteAsync(landing, file => StoredPages.Apply(file, landing, changes), cancel);

    /// <inheritdoc/>
    public Task DropAsync(string landing, IReadOnlyList<string> pulls, CancellationToken cancel) => WriteAsync(
        landing,
        file =>
        {
            foreach (var table in new[] { "pages", "strands" })
            {
                using var command = file.Command(
                    $"delete from {table} where landing = $landing and pull in (select value from json_each($pulls))",
                    ("$landing", landing), ("$pulls", TextsOf(pulls)));
                command.ExecuteNonQuery();
            }
        },
        cancel);

    /// <inheritdoc/>
    public Task ForgetSkipsAsync(string landing, CancellationToken cancel) => WriteAsync(
        landing,
        file =>
        {
            using var command = file.Command(
                "update strands set status = null, because = null, said = null, request = null where landing = $landing and because is not null", ("$landing", landing));
            command.ExecuteNonQuery();
        },
        cancel);

    /// <inheritdoc/>
    public async Task<IReadOnlyList<LandingSum>> SumsAsync(string landing, CancellationToken cancel)
    {
        if (files.Find(landing) is not { } file)
            return [];
        return await file.AloneAsync(() =>
        {
            var sums = new SortedDictionary<string, LandingSum>(StringComparer.Ordinal);
            using (var pages = file.Command("select pull, page, rows, checksum from pages where landing = $landing", ("$landing", landing)))
            using (var rows = pages.ExecuteReader())
            {
                while (rows.Read())
                {
                    var sum = Of(rows.GetString(0));
                    sums[sum.Pull] = sum with
                    {
                        Pages = sum.Pages + 1,
                        Rows = sum.Rows + rows.GetInt64(2),
                        Checksums = unchecked(sum.Checksums + (rows.GetInt64(3) * (rows.GetInt64(1) + 1))),
                    };
                }
            }

            using var strands = file.Command(
                "select pull, count(*) + count(because) from strands where landing = $landing group by pull", ("$landing", landing));
            using var counts = strands.ExecuteReader();
            while (counts.Read())
                sums[counts.GetString(0)] = Of(counts.GetString(0)) with { Strands = counts.GetInt64(1) };
            return (IReadOnlyList<LandingSum>)[.. sums.Values];

            LandingSum Of(string pull) => sums.GetValueOrDefault(pull) ?? new LandingSum(pull, 0, 0, 0, 0);
        }, cancel);
    }

    /// <inheritdoc/>
    public async IAsyncEnumerable<StoredStrand> StrandsAsync(string landing, [EnumeratorCancellation] CancellationToken cancel)
    {
        if (files.Find(landing) is not { } file)
            yield break;
        var strands = await file.AloneAsync(() =>
        {
            using var command = file.Command(
                """select pull, strand, "values", carried, way, status, because, said, request from strands where landing = $landing order by pull, strand""", ("$landing", landing));
            using var rows = command.ExecuteReader();
            var found = new List<StoredStrand>();
            while (rows.Read())
                found.Add(new StoredStrand(
                    rows.GetString(0),
                    rows.GetString(1),
                    rows.GetString(2),
                    rows.GetString(3),
                    rows.GetString(4),
                    rows.IsDBNull(5) ? null : rows.GetInt32(5),
                    StoredPages.Text(rows, 6),
                    StoredPages.Text(rows, 7),
                    StoredPages.Text(rows, 8)));
            return found;
        }, cancel);
        foreach (var strand in strands)
            yield return strand;
    }

    /// <inheritdoc/>
    public async IAsyncEnumerable<StoredPage> PagesAsync(
        string landing, (string Pull, IReadOnlyList<string> Strands)? some, [EnumeratorCancellation] CancellationToken cancel)
    {
        if (files.Find(landing) is not { } file)
            yield break;
        StoredPage? last = null;
        for (var pages = await NextAsync(); pages.Count > 0; pages = await NextAsync())
        {
            foreach (var page in pages)
                yield return last = page;
        }

        Task<List<StoredPage>> NextAsync() => file.AloneAsync(() =>
        {
            using var command = file.Command(
                $"""
                select {StoredPages.Columns} from pages where landing = $landing and (pull, strand, page) > ($pull, $strand, $page)
                    {(some is null ? "" : "and pull = $of and strand in (select value from json_each($strands))")} order by pull, strand, page limit {MostPages}
                """,
                ("$landing", landing),
                ("$pull", last?.Pull ?? ""),
                ("$strand", last?.Strand ?? ""),
                ("$page", last?.Page ?? -1),
                ("$of", some?.Pull ?? ""),
                ("$strands", TextsOf(some?.Strands ?? [])));
            using var rows = command.ExecuteReader();
            var found = new List<StoredPage>();
            while (rows.Read())
                found.Add(StoredPages.Read(rows));
            return found;
        }, cancel);
    }

    /// <inheritdoc/>
    public async Task<IReadOnlyList<string>> ListAsync(string prefix, CancellationToken cancel)
    {
        var names = new List<string>();
        foreach (var folder in files.FoldersBelow(prefix).ToList())
        {
            if (files.Find(folder + "/landing") is not { } file)
                continue;
            names.AddRange(await file.AloneAsync(() =>
            {
                using var command = file.Command("select landing from pages union select landing from strands");
                using var rows = command.ExecuteReader();
                var found = new List<string>();
                while (rows.Read())
                    found.Add(rows.GetString(0));
                return found;
            }, cancel));
        }

        return [.. names.Where(name => name.StartsWith(prefix, StringComparison.Ordinal)).Distinct().Order(StringComparer.Ordinal)];
    }

    /// <inheritdoc/>
    public async Task RemoveAsync(IReadOnlyList<string> landings, CancellationToken cancel)
    {
        foreach (var landing in landings.Where(landing => files.Find(landing) is not null))
            await WriteAsync(
                landing,
                file =>
                {
                    foreach (var table in new[] { "pages", "strands", "queue" })
                    {
                        using var command = file.Command($"delete from {table} where landing = $landing", ("$landing", landing));
                        command.ExecuteNonQuery();
                    }
                },
                cancel);
    }

    /// <inheritdoc/>
    public Task ReleaseAsync(string landing, CancellationToken cancel)
    {
        files.Remove(landing);
        return Task.CompletedTask;
    }

    private Task WriteAsync(string landing, Action<OneConnection> write, CancellationToken cancel)
    {
        var file = files.Make(landing);
        return file.AloneAsync(() =>
        {
            using var transaction = file.Connection.BeginTransaction(deferred: false);
            write(file);
            transaction.Commit();
            return true;
        }, cancel);
    }

    private static string TextsOf(IEnumerable<string> texts) => JsonSerializer.Serialize([.. texts], StateJson.Default.StringArray);
}

using System.Text;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Tests;

/// <summary>Which state a version opens, and what it finds there.</summary>
public sealed class StateFormatTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public async Task State_of_a_newer_version_is_refused_and_stays_as_it_is()
    {
        var path = _folder["state.db"];
        await using (var state = SqliteState.Open(path, TimeProvider.System))
            await state.WriteAsync("run", "a/1", [1], default);
        Do(path, "pragma user_version = 2");
        Should.Throw<RefusedException>(() => SqliteState.Open(path, TimeProvider.System)).Refusal.What.ShouldContain("has format 2, but this Cursiva reads 1");
        Do(path, "pragma user_version = 0");
        await using var again = SqliteState.Open(path, TimeProvider.System);
        (await again.ReadAsync("run", "a/1", default)).ShouldBe([1]);
    }

    [Fact]
    public async Task The_newest_documents_are_those_with_the_highest_keys()
    {
        await using var state = SqliteState.Open(_folder["state.db"], TimeProvider.System);
        foreach (var key in new[] { "a/1", "a/2", "a/3", "b/9", "a", "a0" })
            await state.WriteAsync("run", key, Encoding.UTF8.GetBytes(key), default);
        async Task<string[]> NewestAsync(int most) => [.. (await state.NewestAsync("run", "a/", most, default)).Select(Encoding.UTF8.GetString)];
        (await NewestAsync(2)).ShouldBe(["a/2", "a/3"]);
        (await NewestAsync(9)).ShouldBe(["a/1", "a/2", "a/3"]);
        (await state.ListAsync("run", "", default)).Count.ShouldBe(6);
    }

    private static void Do(string path, string sql)
    {
        using var connection = new SqliteConnection($"Data Source={path};Pooling=False");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }
}

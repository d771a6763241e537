using System.Text.Json;

namespace Cursiva.Core.Tables;

/// <summary>What the engine means to do for a query.</summary>
internal static class QueryPlan
{
    private static readonly string[] s_passing = ["SEQ_SCAN", "PROJECTION", "FILTER"];

    /// <summary>Whether rows of one table are only chosen and changed, in their order. Several threads then give what one gives.</summary>
    /// <exception cref="SqlException">The query cannot be bound.</exception>
    public static bool PassesRows(Database database, string sql)
    {
        using var plan = JsonDocument.Parse(database.All($"explain (format json) {sql}")[0][1]!);
        return plan.RootElement.EnumerateArray().All(Passes);
    }

    private static bool Passes(JsonElement step) =>
        s_passing.Contains(step.GetProperty("name").GetString()!.Trim()) && step.GetProperty("children").EnumerateArray().All(Passes);
}

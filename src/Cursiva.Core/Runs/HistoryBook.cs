using System.Globalization;
using System.Text;
using System.Text.Json;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>
/// One line for every run of every job, by the time it began: what was since some day is found without reading what was before.
/// </summary>
public sealed class HistoryBook(IState state)
{
    private const string Kind = "history";
    private const string RunKind = "run";
    private const string MadeKind = "history-made";

    /// <summary>Writes the line of a run, in place of the one it had.</summary>
    public Task WriteAsync(HistoryLine line, CancellationToken cancel) => state.WriteAsync(Kind, KeyOf(line), Serialized(line), cancel);

    /// <summary>The runs that began since a time, in the order of their starts.</summary>
    /// <param name="job">The job's name; null for all jobs.</param>
    public async Task<IReadOnlyList<HistoryLine>> SinceAsync(DateTimeOffset since, string? job, CancellationToken cancel)
    {
        await MakeAsync(cancel);
        var found = await state.RangeAsync(Kind, Time(since), "~", cancel);
        return [.. found.Select(pair => JsonSerializer.Deserialize(pair.Value, RunRecordJson.Default.HistoryLine)!).Where(
            line => job is null || line.Job == job)];
    }

    // A state of the first format has records and no lines.
    private async Task MakeAsync(CancellationToken cancel)
    {
        if (await state.ReadAsync(MadeKind, "1", cancel) is not null)
            return;
        var lines = new List<KeyValuePair<string, byte[]>>();
        foreach (var (key, document) in await state.RangeAsync(RunKind, "", "~", cancel))
        {
            var line = HistoryLine.Of(key[..key.LastIndexOf('/')], JsonSerializer.Deserialize(document, RunRecordJson.Default.RunRecord)!);
            lines.Add(new(KeyOf(line), Serialized(line)));
        }

        await state.WriteAllAsync(Kind, lines, cancel);
        await state.WriteAsync(MadeKind, "1", Encoding.UTF8.GetBytes("1"), cancel);
    }

    private static string KeyOf(HistoryLine line) => $"{Time(line.StartedAt)} {line.Job}/{line.Run:D9}";

    // In this form the order of texts is that of times.
    private static string Time(DateTimeOffset time) =>
        time.ToUniversalTime().ToString("yyyyMMdd'T'HHmmssfff", CultureInfo.InvariantCulture);

    private static byte[] Serialized(HistoryLine line) => JsonSerializer.SerializeToUtf8Bytes(line, RunRecordJson.Default.HistoryLine);
}

using System.Text.Json;
using Cursiva.Core.State;

namespace Cursiva.Core.Runs;

/// <summary>The records of one job's runs.</summary>
public sealed class RunStore(IState state, JobFolder job)
{
    private const string Kind = "run";

    /// <summary>All runs of the job, oldest first.</summary>
    public async Task<IReadOnlyList<RunRecord>> ListAsync(CancellationToken cancel) =>
        Read(await state.ListAsync(Kind, job.Key + "/", cancel));

    /// <summary>The newest runs of the job, oldest first.</summary>
    public async Task<IReadOnlyList<RunRecord>> NewestAsync(int most, CancellationToken cancel) =>
        Read(await state.NewestAsync(Kind, job.Key + "/", most, cancel));

    /// <summary>Writes the record, durably.</summary>
    public async Task WriteAsync(RunRecord run, CancellationToken cancel)
    {
        await state.WriteAsync(
            Kind, $"{job.Key}/{run.Number:D9}", JsonSerializer.SerializeToUtf8Bytes(run, RunRecordJson.Default.RunRecord), cancel);
        await new HistoryBook(state).WriteAsync(HistoryLine.Of(job.Key, run), cancel);
    }

    private static IReadOnlyList<RunRecord> Read(IReadOnlyList<byte[]> documents) =>
        [.. documents.Select(document => JsonSerializer.Deserialize(document, RunRecordJson.Default.RunRecord)!)];
}

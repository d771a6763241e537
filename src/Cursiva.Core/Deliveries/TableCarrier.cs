using System.Net.Sockets;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Npgsql;

namespace Cursiva.Core.Deliveries;

/// <summary>
/// Puts rows into a table of PostgreSQL, in one transaction with a note in the same database, so that they are there once.
/// </summary>
internal sealed class TableCarrier(TableWay way, SignInServices services) : ICarrier
{
    private const string RowsFile = "rows.csv";
    private const string ColumnsFile = "columns.json";

    /// <inheritdoc/>
    public Task<Packed> PackAsync(Parcel parcel, Outbox outbox, CancellationToken cancel)
    {
        outbox.Put(parcel.Id, 0, stream =>
        {
            using var source = File.OpenRead(parcel.Rows!.Path);
            source.CopyTo(stream);
        });
        outbox.Put(parcel.Id, 1, stream => JsonSerializer.Serialize(stream, parcel.Rows!.Manifest, DeliveryJson.Default.TableManifest));
        outbox.Close(parcel.Id);
        File.Delete(parcel.Rows!.Path);
        return Task.FromResult(
            new Packed($"{way.Database} at {way.Host}, table {(way.Schema is null ? "" : way.Schema + ".")}{way.Table}",
            [
                RowsFile,
                ColumnsFile,
            ]));
    }

    /// <inheritdoc/>
    public async Task<SendResult> SendAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel)
    {
        var commits = false;
        try
        {
            await using var source = await SourceAsync(cancel);
            await using var connection = await source.OpenConnectionAsync(cancel);
            await using var transaction = await connection.BeginTransactionAsync(cancel);
            var table = new TableChange(connection, way, Manifest(files));
            if (await table.NoteAsync(KeyOf(entry), entry, cancel) is { } since)
                return new SendResult(LedgerPhase.Sent, $"the rows were there already, since {since:yyyy-MM-dd HH:mm:ss}Z");
            if (await table.ObjectionAsync(cancel) is { } objection)
                return new SendResult(LedgerPhase.Refused, Clean(objection));
            if (await table.FillAsync(files[0], cancel) is { } lacking)
                return new SendResult(LedgerPhase.Ready, lacking);
            commits = true;
            await transaction.CommitAsync(CancellationToken.None);
            return new SendResult(LedgerPhase.Sent, $"{table.Count:N0} {(table.Count == 1 ? "row" : "rows")}");
        }
        catch (PostgresException error)
        {
            return new SendResult(
                PhaseOf(error),
                Clean($"{way.Host} said {error.SqlState}: {error.MessageText}{(error.Detail is { } detail ? $" ({detail})" : "")}{(error.Where is { } where ? $" at {where.Split('\n')[0]}" : "")}"));
        }
        catch (Exception error) when (error is NpgsqlException or SocketException or IOException or TimeoutException)
        {
            // Nothing of a transaction stays unless its end was asked for.
            return new SendResult(
                commits ? LedgerPhase.InDoubt : LedgerPhase.Ready,
                Clean($"{way.Host}:{way.Port} {(commits ? "did not say whether the rows are in" : "cannot be used")}: {(error.InnerException ?? error).Message}"));
        }
    }

    /// <inheritdoc/>
    public async Task<bool?> HasArrivedAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel)
    {
        try
        {
            await using var source = await SourceAsync(cancel);
            await using var connection = await source.OpenConnectionAsync(cancel);
            return await new TableChange(connection, way, new TableManifest([], 0)).NotedAsync(KeyOf(entry), cancel) is not null;
        }
        catch (Exception error) when (error is NpgsqlException or SocketException or IOException or TimeoutException)
        {
            return null;
        }
    }

    // Classes of SQLSTATE (ISO/IEC 9075-2 section 24): what another attempt or another hand can change, and what it cannot.
    private static LedgerPhase PhaseOf(PostgresException error) =>
        error.SqlState[..2] is "08" or "25" or "28" or "40" or "53" or "55" or "57" or "58" or "3D" || error.SqlState == "42501"
            ? LedgerPhase.Ready
            : LedgerPhase.Refused;

    // Two state folders may have a job and a run of one name.
    private static string KeyOf(LedgerEntry entry) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes($"{entry.Id}|{entry.Since.UtcTicks}|{entry.Digest}")));

    private static TableManifest Manifest(IReadOnlyList<string> files)
    {
        using var stream = File.OpenRead(files[1]);
        return JsonSerializer.Deserialize(stream, DeliveryJson.Default.TableManifest)!;
    }

    private async Task<NpgsqlDataSource> SourceAsync(CancellationToken cancel)
    {
        var text = new NpgsqlConnectionStringBuilder
        {
            Host = way.Host,
            Port = way.Port,
            Database = way.Database,
            Username = way.User,
            SslMode = way.IsEncrypted ? SslMode.VerifyFull : SslMode.Disable,
            RootCertificate = way.Trust is { } trust ? Path.Combine(services.Folder, trust) : null,
            Timeout = 20,
            CommandTimeout = 0,
            CancellationTimeout = 1000,
            Pooling = false,
            Timezone = "UTC",
            ApplicationName = "cursiva",
        };
        if (way.Password is { } password)
            text.Password = (await services.Secrets.ReadAsync(password, cancel)).Reveal();
        return new NpgsqlSlimDataSourceBuilder(text.ConnectionString).EnableTransportSecurity().Build();
    }

    private string Clean(string text) => services.Redactor.Clean(text);
}

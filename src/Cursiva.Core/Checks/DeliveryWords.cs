using Cursiva.Core.Jobs;

namespace Cursiva.Core.Checks;

/// <summary>Says where a delivery goes.</summary>
internal sealed class DeliveryWords : IDeliveryWays<string>
{
    public string Of(MailWay way) =>
        $"mailed through {way.Host}:{way.Port} to {(way.ToSql is null ? string.Join(", ", way.To) : "those whom a query names")}";

    public string Of(FolderWay way) => $"copied to {way.Path.Text}";

    public string Of(SftpWay way) => $"put by SFTP into {way.Path.Text} of {way.User} at {way.Host}:{way.Port}";

    public string Of(TableWay way) =>
        $"{way.Rows switch { TableRows.Replace => "in place of the rows of", TableRows.Append => "added to", TableRows.Merge => $"merged by {string.Join(", ", way.Key)} into" }} table {(way.Schema is null ? "" : way.Schema + ".")}{way.Table} of database {way.Database} at {way.Host}:{way.Port}";

    public string Of(UploadWay way) =>
        $"uploaded to {way.Work.Api}: {string.Join(", ", way.Work.Steps.Select(step => $"{step.Method.ToString().ToUpperInvariant()} {step.Path}"))}";

    public string Of(MessageWay way) => $"posted to the address of {way.Address}";
}

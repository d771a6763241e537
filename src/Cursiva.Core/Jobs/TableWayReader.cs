using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads a table of a delivery.</summary>
internal sealed class TableWayReader(SectionReader section)
{
    public TableWay? Read()
    {
        var isEncrypted = section.Choice(DeliveryKeys.TableSecurity) != "none";
        var server = ServerName.Read(section, DeliveryKeys.TableServer, 5432);
        ServerName.CheckProtected(section, DeliveryKeys.TableSecurity, isEncrypted, server?.Host);
        var rows = section.Choice(DeliveryKeys.Rows) switch
        {
            "append" => TableRows.Append,
            "merge" => TableRows.Merge,
            _ => TableRows.Replace,
        };
        List<string> key = [.. section.Texts(DeliveryKeys.TableKey).Select(column => column.Text)];
        if (rows == TableRows.Merge && key.Count == 0)
            section.Reading.Add(
                section.Place,
                $"{section.Title} merges rows but has no key",
                "add key: with the columns that identify a row");
        if (rows != TableRows.Merge && key.Count > 0)
            section.Reading.Add(
                section.At(DeliveryKeys.TableKey),
                $"{section.Title} has a key but does not merge rows",
                "write rows: merge, or remove key:");
        var name = section.Text(DeliveryKeys.TableName)?.Split('.') ?? [];
        if (name.Length > 2 || name.Any(part => part.Length is 0 or > 63 || part.Any(char.IsControl)))
            section.Reading.Add(
                section.At(DeliveryKeys.TableName),
                $"'{string.Join('.', name)}' is not a table name",
                "write TABLE or SCHEMA.TABLE, up to 63 letters each");
        return server is not var (host, port) || section.Text(DeliveryKeys.DatabaseName) is not { } database || section.Text(
            DeliveryKeys.TableUser) is not { } user || SqlReader.Read(
            section, DeliveryKeys.TableSql) is not { } sql || name.Length is 0 or > 2
            ? null
            : new TableWay(
                host,
                port,
                isEncrypted,
                database,
                user,
                section.SecretSources(DeliveryKeys.TablePassword) is [var password, ..] ? password : null,
                name.Length == 2 ? name[0] : null,
                name[^1],
                sql,
                rows,
                key)
            {
                Trust = section.LocalFile(IdentityKeys.Trust),
            };
    }
}

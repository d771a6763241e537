namespace Cursiva.Core.Jobs;

/// <summary>The SQL of a job.</summary>
public static class Sources
{
    /// <summary>What reads tables besides views and reports: writes and deliveries.</summary>
    public static IEnumerable<SqlSource> Beside(Job job) =>
        [.. job.Writes.Select(write => write.Sql), .. job.Deliveries.Select(Of).OfType<SqlSource>()];

    /// <summary>The SQL of a delivery; null for none.</summary>
    public static SqlSource? Of(Delivery delivery) => delivery.Way.Of(new SqlOfWays());

    private sealed class SqlOfWays : IDeliveryWays<SqlSource?>
    {
        public SqlSource? Of(MailWay way) => way.ToSql;

        public SqlSource? Of(FolderWay way) => null;

        public SqlSource? Of(SftpWay way) => null;

        public SqlSource? Of(TableWay way) => way.Sql;

        public SqlSource? Of(UploadWay way) => null;

        public SqlSource? Of(MessageWay way) => null;
    }
}

namespace Cursiva.Cli.Tests;

/// <summary>Parts of job files.</summary>
internal static class Pieces
{
    public const string Consignments = """
        consignments:
          get: /consignments?size=50
          rows: /items
          paging: { cursor: /page/cursor, parameter: cursor, total: /page/total }
        """;

    public const string Depots = """
        depots:
          get: /depots?size=5
          rows: /items
          paging: { next-link: /links/next }
        """;

    public const string All = """
        all:
          sql: select * from consignments
          write: [all.csv, all.jsonl]
        """;

    public const string Late = """
        late:
          sql: select depot, count(*) as n from consignments where status = 'late' group by 1 order by 1
          write: late.csv
        """;
}

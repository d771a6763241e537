namespace Cursiva.Core.Jobs;

/// <summary>Rows of a query go into a table of a PostgreSQL database, in one transaction with the note that they did.</summary>
/// <param name="Database">The database's name.</param>
/// <param name="User">Who signs in.</param>
/// <param name="Password">Where the password is; null for none.</param>
/// <param name="Schema">The table's schema; null for the first of the search path.</param>
/// <param name="Table">The table's name.</param>
/// <param name="Sql">Gives the rows.</param>
/// <param name="Rows">What becomes of the rows that are there.</param>
/// <param name="Key">The columns that tell rows apart, where they are merged.</param>
public sealed record TableWay(
    string Host,
    int Port,
    bool IsEncrypted,
    string Database,
    string User,
    SecretSource? Password,
    string? Schema,
    string Table,
    SqlSource Sql,
    TableRows Rows,
    IReadOnlyList<string> Key) : DeliveryWay
{
    /// <summary>A PEM file with the certificate authorities that are trusted instead of the machine's, or null.</summary>
    public string? Trust { get; init; }

    /// <inheritdoc/>
    public override T Of<T>(IDeliveryWays<T> ways) => ways.Of(this);
}

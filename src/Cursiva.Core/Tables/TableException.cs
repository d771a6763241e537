namespace Cursiva.Core.Tables;

/// <summary>Rows that cannot become a table as they are; names column and row.</summary>
public sealed class TableException(string what) : Exception(what);

namespace Cursiva.Core.Tables;

/// <summary>A column as a run found it: its name and SQL type.</summary>
public sealed record KnownColumn(string Name, string SqlType);

namespace Cursiva.Core.Jobs;

/// <summary>Named SQL that reports and the queries below it use as a table.</summary>
public sealed record Query(string Name, Place Place, SqlSource Sql);

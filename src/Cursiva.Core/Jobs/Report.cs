namespace Cursiva.Core.Jobs;

/// <summary>SQL over landed rows, written to files.</summary>
/// <param name="SqlPlace">Where the SQL's first line stands.</param>
/// <param name="SqlIndent">Columns that the job file indents the SQL by, so that places in it can be told as places in the file.</param>
public sealed record Report(string Name, Place Place, string Sql, Place SqlPlace, int SqlIndent, IReadOnlyList<Template> Write);

namespace Cursiva.Core.Tables;

/// <summary>A table that a query reads.</summary>
/// <param name="Schema">Empty for the main one.</param>
/// <param name="Position">Character in the SQL, from 0.</param>
public sealed record TableMention(string Schema, string Name, int Position)
{
    /// <summary>As SQL writes it.</summary>
    public string FullName => Schema.Length == 0 ? Name : $"{Schema}.{Name}";
}

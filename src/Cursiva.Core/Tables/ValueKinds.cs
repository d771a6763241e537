namespace Cursiva.Core.Tables;

/// <summary>The kinds of values that a column was seen with.</summary>
[Flags]
internal enum ValueKinds
{
    None = 0,
    Text = 1,
    Integer = 2,
    Decimal = 4,
    Exponent = 8,
    Boolean = 16,
    Json = 32,
}

namespace Cursiva.Core.Tests.Reports;

/// <summary>A cell as it was read back.</summary>
/// <param name="Kind">text, number or boolean.</param>
/// <param name="Format">The number format: a code, or the number of a built-in one.</param>
internal sealed record XlsxValue(string Kind, string Value, string Format);

using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>What is known of a part before its rows.</summary>
/// <param name="Columns">Empty for words.</param>
/// <param name="Words">The paragraphs of a part of words.</param>
/// <param name="Before">The value that a figure had in the last good run; null when it is not known.</param>
public sealed record PartHead(Part Part, IReadOnlyList<ResultColumn> Columns, IReadOnlyList<string> Words, string? Before);

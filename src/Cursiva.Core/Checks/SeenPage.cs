using Cursiva.Core.Pulls;

namespace Cursiva.Core.Checks;

/// <summary>A page that was looked at.</summary>
/// <param name="Way">How the listing continues after it.</param>
/// <param name="Digest">Of all its rows.</param>
/// <param name="Rows">Its first rows, each as the JSON that would land.</param>
internal sealed record SeenPage(PageScan Scan, Way Way, PageSigns Signs, ulong Digest, IReadOnlyList<byte[]> Rows);

using Cursiva.Core.Http;

namespace Cursiva.Core.Pulls;

/// <summary>What a pager goes by.</summary>
/// <param name="Uri">The address of the page.</param>
/// <param name="LastKey">The keyset value of the last row, as JSON; null without one.</param>
internal sealed record PageFacts(Answer Answer, Uri Uri, PageScan Scan, string? LastKey);

using Cursiva.Core.Http;

namespace Cursiva.Core.Pulls;

/// <summary>What a pager goes by.</summary>
/// <param name="Uri">The address of the page.</param>
/// <param name="LastKey">The keyset value of the last row, as JSON; null without one.</param>
/// <param name="IsFirst">Whether no page of the strand came before it.</param>
/// <param name="RowsBefore">Rows of the strand's pages before it.</param>
/// <param name="LargestPage">Rows of the largest page before it; 0 for the first.</param>
internal sealed record PageFacts(
    Answer Answer, Uri Uri, PageScan Scan, string? LastKey, bool IsFirst, long RowsBefore = 0, int LargestPage = 0);

using Cursiva.Core.Checks;

namespace Cursiva.Core.Drafts;

/// <summary>Two pages that follow each other, as a run would take them.</summary>
/// <param name="Pull">What was tried.</param>
/// <param name="Look">Takes further pages.</param>
/// <param name="FirstAnswer">The first page as it came.</param>
/// <param name="SecondAnswer">The second page as it came.</param>
internal sealed record PageTrial(
    DraftedPull Pull, PageLook Look, SeenPage First, SeenPage Second, KeptAnswer FirstAnswer, KeptAnswer SecondAnswer);

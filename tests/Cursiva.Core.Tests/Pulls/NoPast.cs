using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Pulls;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>Nothing was pulled before.</summary>
internal sealed class NoPast : IPullPast
{
    public string? Mark(Pull pull, string strand) => null;

    public bool LedOn(Pull pull) => false;

    public TaggedPages Tagged(Pull pull) => TaggedPages.None;

    public IReadOnlyList<KnownColumn> LastSeen(string pull) => [];

    public LandingChain Earlier(Pull pull) => LandingChain.None;
}

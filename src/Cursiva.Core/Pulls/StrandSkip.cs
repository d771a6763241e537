using Cursiva.Core.Landing;

namespace Cursiva.Core.Pulls;

/// <summary>A strand is skipped, as the job allows.</summary>
internal sealed class StrandSkip(LandedSkip skip) : Exception(skip.Because)
{
    public LandedSkip Skip => skip;
}

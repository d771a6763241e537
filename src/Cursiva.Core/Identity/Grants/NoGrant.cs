using Cursiva.Core.Jobs;

namespace Cursiva.Core.Identity;

/// <summary>Nobody signs in.</summary>
internal static class NoGrant
{
    /// <summary>How a job declares it.</summary>
    public static AskedGrant Declared { get; } = new()
    {
        Value = Grants.None,
        SignsIn = false,
        Refreshes = false,
        TokensOf = (_, _) => null,
    };
}

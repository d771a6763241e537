namespace Cursiva.Core.Drafts;

/// <summary>What is to be drafted.</summary>
/// <param name="Address">The listing.</param>
/// <param name="SignIn">Who asks.</param>
/// <param name="File">What the job file will be called.</param>
/// <param name="Version">The version of Cursiva.</param>
public sealed record DraftOrder(AskedAddress Address, AskedSignIn SignIn, string File, string Version)
{
    /// <summary>The JSON body of a POST; null for a GET.</summary>
    public string? Body { get; init; }

    /// <summary>Most requests, the first one among them.</summary>
    public int MostRequests { get; init; } = 12;

    /// <summary>Parameters that the API's description names.</summary>
    public IReadOnlyList<string> Parameters { get; init; } = [];

    /// <summary>Whether the answers come from a recording: nobody signs in, and what was not recorded cannot be asked.</summary>
    public bool IsRecorded { get; init; }

    /// <summary>Who asks now.</summary>
    public AskedSignIn AsksAs => IsRecorded ? new AskedSignIn() : SignIn;

    /// <summary>Remarks that stand above the pull.</summary>
    public IReadOnlyList<string> Remarks { get; init; } = [];
}

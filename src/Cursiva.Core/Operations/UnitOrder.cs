namespace Cursiva.Core.Operations;

/// <summary>What a unit is made with.</summary>
/// <param name="Program">The absolute path of the program.</param>
/// <param name="Arguments">What follows <c>run JOB</c> on its command line.</param>
public sealed record UnitOrder(string Program, IReadOnlyList<string> Arguments)
{
    /// <summary>Whether the units are a user's own, and not the machine's.</summary>
    public bool IsOfUser { get; init; }

    /// <summary>
    /// Whether a user's units do without namespaces, which some systems do not allow to users; those of the machine never do.
    /// </summary>
    public bool IsUnconfined { get; init; }

    /// <summary>The user that a unit of the machine runs as; null for one of its own, which exists while it runs.</summary>
    public string? RunAs { get; init; }

    /// <summary>The folder of the credentials that <c>systemd:</c> sources are loaded from.</summary>
    public string Credentials { get; init; } = "/etc/cursiva/credentials";

    /// <summary>Whether the credentials are encrypted for this machine (systemd-creds).</summary>
    public bool AreEncrypted { get; init; }
}

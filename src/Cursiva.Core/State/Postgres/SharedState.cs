namespace Cursiva.Core.State;

/// <summary>What the parts of a shared state have in common.</summary>
/// <param name="Lease">After this long without a word of a machine, another one may have what it held.</param>
/// <param name="Clock">The database's clock.</param>
/// <param name="Machine">This machine's clock: it measures spans.</param>
/// <param name="Root">The state folder of this machine.</param>
/// <param name="LandsHere">Whether rows stay on the machine that landed them.</param>
internal sealed record SharedState(
    PostgresLink Link, TimeSpan Lease, TimeProvider Clock, TimeProvider Machine, string Root, bool LandsHere);

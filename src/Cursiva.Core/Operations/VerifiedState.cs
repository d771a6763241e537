namespace Cursiva.Core.Operations;

/// <summary>What was found when a state was verified.</summary>
/// <param name="Landings">Landings that were looked at.</param>
/// <param name="Pages">Pages whose checksums were compared.</param>
/// <param name="Damage">What is wrong, one line each; empty where nothing is.</param>
/// <param name="Left">Landings that were omitted, since a run is under way.</param>
public sealed record VerifiedState(int Landings, long Pages, IReadOnlyList<string> Damage, IReadOnlyList<string> Left);

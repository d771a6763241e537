namespace Cursiva.Core.Runs;

/// <summary>What would leave the machine.</summary>
/// <param name="Run">The run whose rows it is made of.</param>
public sealed record LeavingAccount(int Run, IReadOnlyList<LeavingLine> Lines);

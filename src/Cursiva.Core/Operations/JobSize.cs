namespace Cursiva.Core.Operations;

/// <summary>What a job takes on disk.</summary>
/// <param name="Runs">Runs that are recorded.</param>
/// <param name="Landings">Runs whose rows are there.</param>
/// <param name="Bytes">All of it.</param>
/// <param name="LandedBytes">Its landings and folds.</param>
public sealed record JobSize(string Job, string Path, int Runs, int Landings, long Bytes, long LandedBytes);

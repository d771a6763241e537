namespace Cursiva.Core.Operations;

/// <summary>What a state folder has.</summary>
/// <param name="Format">The version of state.db.</param>
/// <param name="DatabaseBytes">state.db, with what is being written.</param>
/// <param name="Key">Where the key of the store is, in words.</param>
/// <param name="Secrets">Secrets that are kept in the store.</param>
public sealed record StateSizes(string Folder, long Format, long DatabaseBytes, string Key, int Secrets, IReadOnlyList<JobSize> Jobs);

namespace Cursiva.Core.Secrets;

/// <summary>An entry of the store, without its value.</summary>
/// <param name="KeptAt">When its present value was kept.</param>
/// <param name="Expires">When the secret itself ends, as the person who kept it said.</param>
public sealed record KeptSecret(string Name, DateTimeOffset KeptAt, DateTimeOffset? Expires);

namespace Cursiva.Core.Apis;

/// <summary>How much of a declared limit is in use.</summary>
/// <param name="Limit">The limit as it is kept: 80 per second.</param>
/// <param name="Taken">Requests that count against it now.</param>
/// <param name="Of">Requests that it allows.</param>
public sealed record LimitUse(string Api, string Limit, int Taken, int Of);

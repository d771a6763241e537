namespace Cursiva.StandIn.Access;

/// <summary>A client that is registered.</summary>
/// <param name="IsPublic">Whether it has no credentials.</param>
/// <param name="Grants">The grants it may use.</param>
public sealed record Client(string Id, bool IsPublic, IReadOnlyList<string> Grants);

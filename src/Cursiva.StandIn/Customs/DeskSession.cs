namespace Cursiva.StandIn.Customs;

/// <summary>Who signed in at the desk.</summary>
/// <param name="Token">The access token of the exchange that stands after it.</param>
public sealed record DeskSession(DeskWay Way, string User, byte[] Key, string Token, DateTimeOffset Ends);

using Cursiva.Core.Secrets;

namespace Cursiva.Core.Identity;

/// <summary>An access token (RFC 6749 section 1.4).</summary>
/// <param name="Type">How it is presented, for example <c>Bearer</c> (RFC 6750).</param>
/// <param name="RenewAt">When it is time for the next one, ahead of its end.</param>
public sealed record AccessToken(SecretText Value, string Type, DateTimeOffset RenewAt);

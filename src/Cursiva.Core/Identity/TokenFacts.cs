using System.Text.Json.Serialization;

namespace Cursiva.Core.Identity;

/// <summary>What is kept of a token, sealed, so that the next run can use it.</summary>
/// <param name="Fields">What headers take from the token endpoint's answer, by placeholder.</param>
internal sealed record TokenFacts(
    string Value, string? Type, DateTimeOffset RenewAt, TimeSpan Lifetime, string? Scope, Dictionary<string, string> Fields)
{
    /// <summary>The key that the sign-in agreed on; null for none. It ends with the token, which is renewed before either ends.</summary>
    public SessionKey? SessionKey { get; init; }
}

[JsonSerializable(typeof(TokenFacts))]
internal sealed partial class TokenFactsJson : JsonSerializerContext;

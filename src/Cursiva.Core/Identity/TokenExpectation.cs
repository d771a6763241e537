using System.Text.Json;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Identity;

/// <summary>One comparison of a token with what a job expects of it.</summary>
/// <param name="Says">What was found, as a part of a sentence.</param>
/// <param name="NextStep">What to change when it does not hold.</param>
public sealed record TokenExpectation(string Claim, bool Holds, string Says, string? NextStep)
{
    private static readonly string[] s_permissionClaims = ["scope", "scp", "roles", "permissions"];

    /// <summary>Whether it is about <c>permissions:</c>.</summary>
    public bool IsPermission { get; init; }

    /// <summary>The permission that is expected; null where it is about something else.</summary>
    public string? Expected { get; init; }

    /// <summary>Compares a token with the identity's client id, <c>claims:</c>, <c>scope:</c> and <c>permissions:</c>.</summary>
    /// <param name="grantedScope">The scope that the token endpoint said it granted, when it did.</param>
    public static IReadOnlyList<TokenExpectation> Compare(DeclaredIdentity identity, Jwt token, string? grantedScope)
    {
        var lines = new List<TokenExpectation>();
        if (TokenNature.ClientOf(token) is { } client && identity.ClientId.Length > 0)
            lines.Add(
                Line(
                    "client id",
                    client == identity.ClientId,
                    $"the token was issued to the client {client}",
                    $"change client-id: of identity '{identity.Name}' ({identity.At("client-id")}) if that is the right client"));
        foreach (var (claim, expected) in identity.Claims)
        {
            var found = Values(token, claim);
            lines.Add(Line(
                claim,
                found.Contains(expected),
                found.Count == 0
                    ? $"the token has no {claim}, and {expected} is expected"
                    : $"{claim} is {string.Join(", ", found)}{(found.Contains(expected) ? "" : $", and {expected} is expected")}",
                claim == "aud"
                    ? $"request the right audience with scope: or token-parameters: of identity '{identity.Name}' ({identity.At("scope")}), or change claims: ({identity.At("claims")})"
                    : $"compare claims: {claim} of identity '{identity.Name}' ({identity.At("claims")}) with the tenant or server that issued the token"));
        }

        var has = PermissionsOf(token, grantedScope);
        foreach (var permission in identity.Permissions)
        {
            lines.Add(
                Line(
                    "permissions",
                    has.Contains(permission),
                    has.Contains(permission) ? $"has {permission}" : $"lacks {permission}",
                    $"ask the administrator to grant it to the application, or change permissions: ({identity.At("permissions")})") with
                {
                    IsPermission = true,
                    Expected = permission,
                });
        }

        return lines;
    }

    /// <summary>Scopes and roles that a token has beyond what the identity declares; empty when it declares none.</summary>
    public static IReadOnlyList<string> Beyond(DeclaredIdentity identity, Jwt token, string? grantedScope) =>
        identity.Permissions.Count == 0 && identity.Scope.Count == 0
            ? []
            : [.. PermissionsOf(token, grantedScope).Except(identity.Permissions).Except(identity.Scope).Order(StringComparer.Ordinal)];

    /// <summary>All scopes and roles of a token.</summary>
    public static IReadOnlyList<string> PermissionsOf(Jwt token, string? grantedScope) =>
        [.. s_permissionClaims.SelectMany(token.Texts)
            .Concat((grantedScope ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries))
            .Distinct()];

    private static IReadOnlyList<string> Values(Jwt token, string claim)
    {
        if (!token.Claims.TryGetProperty(claim, out var value))
            return [];
        return value.ValueKind == JsonValueKind.Array
            ? token.Texts(claim)
            : [value.ValueKind == JsonValueKind.String ? value.GetString()! : value.GetRawText()];
    }

    private static TokenExpectation Line(string claim, bool holds, string says, string next) =>
        new(claim, holds, says, holds ? null : next);
}

using System.Text.Json;
using System.Text.Json.Serialization;

namespace Cursiva.Core.Jobs;

/// <summary>
/// What tells one declaration from another: all of it, filled in. Whatever is made for a declaration and used again is looked up by
/// this (promise 13). It is made from every property, so a new key of the job file is in it from the day it is read.
/// </summary>
public static partial class DeclarationKey
{
    /// <summary>Equal for two APIs exactly when they are declared alike; where they stand in a file does not count.</summary>
    public static string Of(Api api) => JsonSerializer.Serialize(api, DeclarationJson.Default.Api);

    /// <summary>Equal for two identities exactly when they are declared alike; where they stand in a file does not count.</summary>
    public static string Of(DeclaredIdentity? identity) =>
        identity is null ? "" : JsonSerializer.Serialize(identity, DeclarationJson.Default.DeclaredIdentity);

    /// <summary>Several texts as one, from which they can be told apart again.</summary>
    public static string Of(params IEnumerable<string?> parts) =>
        JsonSerializer.Serialize(parts.ToArray(), DeclarationJson.Default.StringArray);

    [JsonSourceGenerationOptions(GenerationMode = JsonSourceGenerationMode.Metadata)]
    [JsonSerializable(typeof(Api))]
    [JsonSerializable(typeof(DeclaredIdentity))]
    [JsonSerializable(typeof(string[]))]
    private sealed partial class DeclarationJson : JsonSerializerContext;
}

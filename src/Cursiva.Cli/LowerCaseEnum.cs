using System.Text.Json;
using System.Text.Json.Serialization;

namespace Cursiva.Cli;

/// <summary>Values of an enumeration as JSON tells them: in lower case, words parted by hyphens.</summary>
internal sealed class LowerCaseEnum<T>() : JsonStringEnumConverter<T>(JsonNamingPolicy.KebabCaseLower)
    where T : struct, Enum;

using System.Text.Json.Serialization;

namespace Cursiva.Core.Checks;

/// <summary>What a line of a live check says.</summary>
public enum LiveVerdict
{
    /// <summary>What was asked was granted.</summary>
    [JsonStringEnumMemberName("ok")]
    Ok,

    /// <summary>A run would get in, and a person should know of it.</summary>
    [JsonStringEnumMemberName("notice")]
    Notice,

    /// <summary>A run would not get in.</summary>
    [JsonStringEnumMemberName("failed")]
    Failed,
}

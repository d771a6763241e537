using System.Text.Json.Serialization;

namespace Cursiva.Core.Checks;

/// <summary>What a line of a live check says.</summary>
public enum LiveVerdict
{
    /// <summary>What was asked was granted.</summary>
    [JsonStringEnumMemberName("ok")]
    Ok,

    /// <summary>It passed, and a person should know about it.</summary>
    [JsonStringEnumMemberName("notice")]
    Notice,

    /// <summary>It failed.</summary>
    [JsonStringEnumMemberName("failed")]
    Failed,
}

namespace Cursiva.Cli.Rendering;

/// <summary>How a run is shown.</summary>
/// <param name="JsonLog">The log is JSON, an object a line.</param>
/// <param name="Debug">The log has every request, and stack traces.</param>
/// <param name="JsonSummary">The summary is JSON.</param>
internal sealed record ViewChoice(bool JsonLog, bool Debug, bool JsonSummary);

using System.Text.RegularExpressions;
using Cursiva.Core.Refusals;

namespace Cursiva.Cli.Rendering;

/// <summary>Makes the commands of a message such that they can be pasted: with the job and the state folder of the command that failed.</summary>
/// <param name="Job">The path of the job file, as it was given; null where there is none.</param>
/// <param name="State">The state folder, as it was given; null for the usual one.</param>
internal sealed partial record Advice(string? Job, string? State)
{
    private const string Placeholder = "JOB";

    /// <summary>The command that resumes the job.</summary>
    public string Resume => Of($"cursiva run {Placeholder}");

    /// <summary>A text whose commands name the job and the state.</summary>
    public string Of(string text) => Commands().Replace(text, match =>
    {
        var named = match.Groups["job"].Value;
        var job = Job is null ? named : named.Length > 0 ? named.Replace(
            Placeholder, Quoted(Job), StringComparison.Ordinal) : match.Groups["of"].Success ? $" {Quoted(Job)}" : "";
        return $"{match.Groups["command"].Value}{job}{(State is null ? "" : $" --state {Quoted(State)}")}";
    });

    /// <summary>A refusal whose steps can be pasted.</summary>
    public Refusal Of(Refusal refusal) => refusal with
    {
        NextStep = refusal.NextStep is null ? null : Of(refusal.NextStep),
        Others = [.. refusal.Others.Select(Of)],
    };

    // As a shell takes it.
    private static string Quoted(string path) =>
        path.Length > 0 && path.All(c => char.IsLetterOrDigit(c) || c is '/' or '.' or '-' or '_' or '+' or ',' or '@' or '=' or ':')
            ? path
            : $"'{path.Replace("'", "'\\''", StringComparison.Ordinal)}'";

    // Commands that are about the job need it, whether a message names it or not.
    [GeneratedRegex(@"(?<command>cursiva (?:(?<of>run|check|report|deliver|ledger|runs (?:list|show))(?: --live)?|sign-in|call|token (?:get|read|revoke)|secret (?:keep|list|remove)))(?<job>(?: --job)? JOB\b)?(?![\w-])")]
    private static partial Regex Commands();
}

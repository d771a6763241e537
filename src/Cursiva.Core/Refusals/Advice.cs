using System.Text.RegularExpressions;

namespace Cursiva.Core.Refusals;

/// <summary>
/// Makes the commands of a message such that they can be pasted: with the job and the state folder of the command that failed.
/// </summary>
/// <param name="Job">The path of the job file, as it was given; null where there is none.</param>
/// <param name="State">The state folder, as it was given; null for the usual one.</param>
public sealed partial record Advice(string? Job, string? State)
{
    private const string Placeholder = "JOB";

    /// <summary>The command that resumes the job.</summary>
    public string Resume => Of($"cursiva run {Placeholder}");

    /// <summary>A text whose commands name the job and the state; one that names a state already is as it was.</summary>
    public string Of(string text) => Commands().Replace(text, match =>
    {
        var named = match.Groups["job"].Value;
        var job = Job is null ? named : named.Length > 0 ? named.Replace(
            Placeholder, ShellWord.Of(Job), StringComparison.Ordinal) : match.Groups["of"].Success ? $" {ShellWord.Of(Job)}" : "";
        return $"{match.Groups["command"].Value}{job}{(State is null || match.Groups["without"].Success ? "" : $" --state {ShellWord.Of(State)}")}";
    });

    /// <summary>A refusal whose steps can be pasted.</summary>
    public Refusal Of(Refusal refusal) => refusal with
    {
        NextStep = refusal.NextStep is null ? null : Of(refusal.NextStep),
        Others = [.. refusal.Others.Select(Of)],
    };

    // Commands that are about the job need it, whether a message names it or not; a schedule has a state folder of its own.
    [GeneratedRegex(@"(?<command>cursiva (?:(?<of>run|check|report|deliver|ledger|runs (?:list|show|watch|stop))(?! --all-jobs)(?: --live)?|(?:sign-in|call|(?<without>schedule|payload))(?= JOB\b)|shape|token (?:get|read|revoke)|secret (?:keep|list|remove)|state (?:verify|restore FOLDER)|overview|runs list(?= --all-jobs)))(?<job>(?: --job)? JOB\b)?(?![\w-])(?![^;,()\n]* --state )")]
    private static partial Regex Commands();
}

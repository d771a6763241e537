using Cursiva.Core.Refusals;

namespace Cursiva.Core.State;

/// <summary>Where state lives on this machine.</summary>
/// <param name="Root">The folder that all jobs share.</param>
public sealed record StateFolder(string Root)
{
    /// <summary>
    /// The folder that was asked for, or the first that the environment names: <c>CURSIVA_STATE</c>, systemd's
    /// <c>STATE_DIRECTORY</c>, <c>XDG_STATE_HOME/cursiva</c>, <c>~/.local/state/cursiva</c>.
    /// </summary>
    public static StateFolder Find(string? asked, Func<string, string?> environment)
    {
        var root = asked
            ?? NotEmpty(environment("CURSIVA_STATE"))
            ?? NotEmpty(environment("STATE_DIRECTORY"))?.Split(':')[0]
            ?? (NotEmpty(environment("XDG_STATE_HOME")) is { } state ? Path.Combine(state, "cursiva") : null)
            ?? Path.Combine(NotEmpty(environment("HOME")) ?? Path.GetTempPath(), ".local", "state", "cursiva");
        return new StateFolder(Path.GetFullPath(root));
    }

    /// <summary>The database of documents and slots.</summary>
    public string Database => Path.Combine(Root, "state.db");

    /// <summary>What a person is told when the folder or what is in it cannot be used.</summary>
    public Refusal Refuse(Exception error) => new(Outcome.OurFault, $"the working folder cannot be used: {error.Message}")
    {
        Cause = $"{Root} is not writable for this user, the disk is full, or what is in it is damaged",
        NextStep = "make it writable, or name another folder with --state or CURSIVA_STATE",
    };

    private static string? NotEmpty(string? text) => string.IsNullOrEmpty(text) ? null : text;
}

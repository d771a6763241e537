using Cursiva.Core.Files;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.State;

/// <summary>Where state lives on this machine.</summary>
/// <param name="Root">The folder that all jobs share.</param>
public sealed record StateFolder(string Root)
{
    /// <summary>The database that several machines share; null where the state lies in this folder alone.</summary>
    public SharedDatabase? Shared { get; init; }

    /// <summary>What names this state from anywhere, with <c>--state</c>: the address of the database, or the folder.</summary>
    public string Name { get; init; } = Root;

    /// <summary>
    /// The folder that was asked for, or the first that the environment names: <c>CURSIVA_STATE</c>, systemd's
    /// <c>STATE_DIRECTORY</c>, <c>XDG_STATE_HOME/cursiva</c>, <c>~/.local/state/cursiva</c>. Where a database is named, the folder is this
    /// machine's own share of it.
    /// </summary>
    /// <exception cref="RefusedException">Nothing says where; a folder that everybody can write to is never chosen.</exception>
    public static StateFolder Find(string? asked, Func<string, string?> environment)
    {
        var named = NotEmpty(asked) ?? NotEmpty(environment("CURSIVA_STATE"));
        if (named?.StartsWith(SharedDatabase.Scheme, StringComparison.Ordinal) != true)
            return new StateFolder(OfMachine(named, environment));
        var shared = SharedDatabase.Parse(named);
        return new StateFolder(shared.Folder ?? Path.Combine(OfMachine(null, environment), $"shared-{shared.Key}"))
        {
            Shared = shared,
            Name = named,
        };
    }

    private static string OfMachine(string? named, Func<string, string?> environment)
    {
        var root = named
            ?? NotEmpty(environment("STATE_DIRECTORY"))?.Split(':')[0]
            ?? (NotEmpty(environment("XDG_STATE_HOME")) is { } state ? Path.Combine(state, "cursiva") : null)
            ?? (NotEmpty(environment("HOME")) is { } home ? Path.Combine(home, ".local", "state", "cursiva") : null)
            ?? throw new RefusedException(new Refusal(
                Outcome.InternalError, "there is no place for the state: neither HOME nor XDG_STATE_HOME nor STATE_DIRECTORY is set")
            {
                Cause = "the process has no home folder, as is usual for services",
                NextStep = "name a folder with --state or CURSIVA_STATE; under systemd add StateDirectory=cursiva",
            });
        return Path.GetFullPath(root);
    }

    /// <summary>The database of documents and slots.</summary>
    public string Database => Path.Combine(Root, "state.db");

    /// <summary>Whether the state lies in this folder alone.</summary>
    public bool IsOfOneMachine => Shared is null;

    /// <summary>Whether there is a state, or one would be made.</summary>
    public bool IsThere => Shared is not null || File.Exists(Database);

    /// <summary>Creates the folder when it is not there, and makes sure that nobody else can change what is in it.</summary>
    /// <exception cref="RefusedException">It belongs to somebody else, or others may write to it.</exception>
    /// <exception cref="IOException">It cannot be created.</exception>
    public void Prepare(IDisk disk)
    {
        disk.CreateFolder(Root);
        foreach (var path in new[] { Root, Database })
            RequireOwn(path, "the state folder and what is in it", FileOwner.Of(path));
    }

    /// <summary>
    /// Prepares the folder for somebody who only looks: root may look at the folder of another user, whose files stay that user's.
    /// </summary>
    /// <exception cref="RefusedException">It belongs to somebody else, or others may write to it.</exception>
    /// <exception cref="IOException">It cannot be created.</exception>
    public void PrepareToRead(IDisk disk)
    {
        if (FileOwner.Me != 0 || !File.Exists(Database))
            Prepare(disk);
    }

    /// <summary>Makes sure that a file or folder is this user's and nobody else's to write.</summary>
    /// <exception cref="RefusedException">It is not.</exception>
    public static void RequireOwn(string path, string what, FileOwner? owner)
    {
        if (owner is null || (owner.IsMine && !owner.OthersMayWrite))
            return;
        var mode = Convert.ToString((int)owner.Mode & 511, 8);
        throw new RefusedException(owner.IsMine
            ? new Refusal(Outcome.InternalError, $"{path} can be written by others (mode {mode}), but {what} must belong only to this user")
            {
                Cause = "whoever can write there could read the secrets, or change the job's rows",
                NextStep = $"chmod go-w {path}",
            }
            : new Refusal(
                Outcome.InternalError, $"{path} belongs to another user (number {owner.User}), but {what} must belong only to this user")
            {
                Cause = "the job ran as another user before, or another user made it",
                NextStep =
                    $"run as that user, or, if you trust what is in it: sudo chown -R $(id -u) {path}; or name another folder with --state",
            });
    }

    /// <summary>What a person is told when the folder or what is in it cannot be used.</summary>
    public Refusal Refuse(Exception error) => error switch
    {
        StateAwayException or LeaseLostException => new(Outcome.StoppedResumable, $"{error.Message}; what has arrived is kept")
        {
            Cause = error is LeaseLostException
                ? "the machine was asleep or overloaded, or the network between it and the database was cut"
                : "the database is down or restarting, or the network between this machine and it is cut",
            NextStep = "run again to resume it, on this machine or another one",
        },
        _ => Unusable(error),
    };

    private Refusal Unusable(Exception error) => new(Outcome.InternalError, $"the state folder cannot be used: {error.Message}")
    {
        Cause = $"{Root} is not writable for this user, the disk is full, or its content is damaged",
        NextStep = "make it writable, or name another folder with --state or CURSIVA_STATE",
    };

    private static string? NotEmpty(string? text) => string.IsNullOrEmpty(text) ? null : text;
}

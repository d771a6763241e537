using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Secrets;

/// <summary>The engine that a state is kept by: the one place that knows which there are.</summary>
public static class StateEngines
{
    /// <summary>The engine of a state folder.</summary>
    /// <param name="environment">Looks up an environment variable, for the password of a database.</param>
    /// <param name="tell">Is told when a database goes away and when it is back.</param>
    /// <param name="isToRead">Whether root may look at the folder of another user.</param>
    public static IStateEngine Of(
        StateFolder folder, IDisk disk, Func<string, string?> environment, Redactor redactor, TimeProvider clock, Action<string> tell, bool isToRead = false) =>
        folder.Shared is { } shared
            ? Shared(folder, shared, disk, environment, redactor, clock, tell)
            : new SqliteEngine(folder, disk, clock, isToRead);

    /// <summary>The engine of a shared state. The folder is made ready as well: this machine keeps there what only it needs.</summary>
    /// <param name="environment">Looks up an environment variable, for the password.</param>
    /// <param name="tell">Is told when the database goes away and when it is back.</param>
    public static PostgresEngine Shared(
        StateFolder folder, SharedDatabase shared, IDisk disk, Func<string, string?> environment, Redactor redactor, TimeProvider clock, Action<string> tell)
    {
        folder.Prepare(disk);
        return new PostgresEngine(shared, folder.Root, cancel => PasswordAsync(shared, environment, redactor, tell, cancel), clock, tell);
    }

    // What is kept in the state cannot open it.
    private static async Task<string?> PasswordAsync(
        SharedDatabase shared, Func<string, string?> environment, Redactor redactor, Action<string> tell, CancellationToken cancel)
    {
        if (shared.Password is null)
            return null;
        if (SecretSource.TryParse(shared.Password) is not { Kind: not SecretSource.Kept } source)
        {
            throw new RefusedException(new Refusal(
                Outcome.WrongCommandLine, "the address of the shared state does not say where its password is")
            {
                NextStep = "write password=env:NAME, file:PATH or systemd:NAME, never the password itself",
            });
        }

        var sources = SecretSources.WithoutStore(environment, Environment.CurrentDirectory, redactor, tell);
        return (await sources.ReadAsync(source, cancel)).Reveal();
    }
}

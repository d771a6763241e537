using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Core.Identity;

/// <summary>What signing in works with.</summary>
/// <param name="Folder">Where relative paths of the job start.</param>
/// <param name="Environment">Looks up an environment variable.</param>
public sealed record SignInServices(
    IState State,
    StateFolder StateFolder,
    IDisk Disk,
    SecretStore Store,
    SecretSources Secrets,
    Vault Vault,
    Redactor Redactor,
    HttpSenders Senders,
    Backoff Backoff,
    TimeProvider Clock,
    IRequestWatch Requests,
    ISignInWatch Watch,
    string Folder,
    Func<string, string?> Environment)
{
    /// <summary>The requests and the time that the run may take.</summary>
    public Budget Budget { get; init; } = Budget.Unlimited;

    /// <summary>Is told each step of an encrypted sign-in; null for nobody.</summary>
    public Action<Encryption.PayloadStep>? Shown { get; init; }

    /// <summary>Stands in for every sign-in of a rehearsal; null for the real ones.</summary>
    public RehearsedSignIn? Rehearsed { get; init; }

    /// <summary>Puts together what signing in works with.</summary>
    /// <param name="random">Gives numbers from 0 up to 1, for the jitter of retries.</param>
    public static SignInServices Of(
        IState state,
        StateFolder stateFolder,
        IDisk disk,
        Redactor redactor,
        Func<string,
        string?> environment,
        string folder,
        TimeProvider clock,
        Func<double> random,
        IRequestWatch requests,
        ISignInWatch watch)
    {
        var vault = new Vault(new StoreKey(stateFolder, disk, environment));
        var store = new SecretStore(state, vault, clock);
        var secrets = new SecretSources(environment, folder, store, redactor, watch.Warned);
        return new SignInServices(
            state,
            stateFolder,
            disk,
            store,
            secrets,
            vault,
            redactor,
            new HttpSenders(clock, folder),
            new Backoff(random),
            clock,
            requests,
            watch,
            folder,
            environment);
    }

    /// <summary>What other processes are told of the holder of a lock.</summary>
    public static string Holder => $"process {System.Environment.ProcessId}";
}

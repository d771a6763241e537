using System.CommandLine;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;
using Cursiva.Core.Tables;

namespace Cursiva.Cli.Commands;

/// <summary>What a command works with: the terminal, the environment, and, once opened, state and sign-in.</summary>
internal sealed class CommandContext : IAsyncDisposable
{
    // Runs of the past whose columns may still say something of the next one.
    private const int MostLookedBack = 100;

    private readonly ParseResult _parsed;
    private readonly CommonOptions _common;
    private readonly List<IDisposable> _open = [];
    private readonly List<IState> _states = [];
    private string? _scratch;

    /// <param name="environment">Looks up an environment variable.</param>
    /// <exception cref="RefusedException">The environment file cannot be read.</exception>
    public CommandContext(ParseResult parsed, CommonOptions common, Func<string, string?> environment)
    {
        _parsed = parsed;
        _common = common;
        Redactor = new Redactor();
        var form = common.LogFormOf(parsed, environment);
        Terminal = new Terminal(Redactor, environment, form);
        Environment = EnvironmentFile.Over(
            environment, parsed.GetValue(common.EnvFile), what => Terminal.Error.Say($"[yellow]Note:[/] {what}"));
        var log = parsed.GetValue(common.Log) ?? [];
        View = new ViewChoice(form != LogForm.Plain, log.Contains("debug"), parsed.GetValue(common.Format) == "json");
    }

    public Redactor Redactor { get; }

    public Func<string, string?> Environment { get; }

    public Terminal Terminal { get; }

    public ViewChoice View { get; }

    public bool Json => View.JsonSummary;

    /// <summary>The state folder that was asked for, or the environment's.</summary>
    public StateFolder StateFolder => StateFolder.Find(_parsed.GetValue(_common.State), Environment);

    /// <summary>Names the job and the state in the commands of messages.</summary>
    public Advice Advice => new(_parsed.GetValue(_common.Job), _parsed.GetValue(_common.State));

    /// <summary>Lists the ledger of a job.</summary>
    public LedgerView LedgerView(Job job) => new(Terminal.Out, Json, Advice, job.Zone);

    public static TimeProvider Clock => TimeProvider.System;

    public IDisk Disk { get; } = new Disk();

    /// <summary>What runs, and whatever looks at them, work with.</summary>
    public RunOptions RunOptions(StartChoice choice) =>
        new(
            choice,
            StateFolder,
            EngineOf(StateFolder),
            Disk,
            Clock,
            Redactor,
            Environment,
            $"process {System.Environment.ProcessId} on {System.Environment.MachineName}, since {Clock.GetUtcNow():yyyy-MM-dd HH:mm:ss}Z");

    /// <summary>Reads the job that the command names.</summary>
    /// <exception cref="JobMistakesException">It has mistakes.</exception>
    public Job ReadJob(string path)
    {
        var job = JobSource.Of(path, _parsed, _common, Environment).Read(Clock.GetUtcNow());
        if (Terminal.Events is { } events)
            events.Job = job.Name;
        return job;
    }

    /// <summary>The values that the command line gives for what strands fill in.</summary>
    public IReadOnlyDictionary<string, string> Values =>
        _parsed.GetValue(_common.Value)?.Select(pair => pair.Split('=', 2)).ToDictionary(
            pair => pair[0], pair => pair[1], StringComparer.Ordinal) ?? [];

    /// <summary>The identity of a name, or the only one that signs in; filled in where strands do that.</summary>
    /// <exception cref="RefusedException">There is none of this name, none is named and there are several, or a value is
    /// missing.</exception>
    public DeclaredIdentity IdentityOf(Job job, string? name)
    {
        if (name is not null && job.Identities.TryGetValue(name, out var named))
            return FilledIn(job, named);
        if (name is null && job.Identities.Values.Where(identity => identity.Grant != Grants.None).ToList() is [var only])
            return FilledIn(job, only);
        throw new RefusedException(new Refusal(
            Outcome.WrongCommandLine,
            name is null ? "the job has several identities, and none is named" : $"the job has no identity '{name}'")
        {
            NextStep = job.Identities.Count == 0
                ? "declare one under identities:"
                : $"name one of {string.Join(", ", job.Identities.Keys)}",
        });
    }

    /// <summary>Makes sure that what strands fill in has its values.</summary>
    /// <exception cref="RefusedException">One is missing.</exception>
    public void RequireValues(Job job, string what)
    {
        if (job.Strands.Names.FirstOrDefault(name => !Values.ContainsKey(name)) is { } missing)
        {
            throw new RefusedException(new Refusal(
                Outcome.WrongCommandLine, $"{what} is filled in for each strand, and {missing} has no value")
            {
                NextStep = $"add --value {missing}=...",
            });
        }
    }

    private DeclaredIdentity FilledIn(Job job, DeclaredIdentity identity)
    {
        if (!job.Strands.Identities.ContainsKey(identity.Name))
            return identity;
        RequireValues(job, $"identity '{identity.Name}'");
        return job.Strands.Identity(identity.Name, Values.GetValueOrDefault);
    }

    /// <summary>The engine that a state is kept by.</summary>
    /// <param name="isToRead">Whether root may look at the folder of another user.</param>
    public IStateEngine EngineOf(StateFolder folder, bool isToRead = false) => StateEngines.Of(
        folder, Disk, Environment, Redactor, Clock, what => Terminal.Error.Say($"[yellow]Note:[/] {what}"), isToRead);

    /// <summary>Opens the state that was asked for; it is closed with the command.</summary>
    public Task<IState> OpenStateAsync(CancellationToken cancel) => OpenedAsync(EngineOf(StateFolder), cancel);

    /// <summary>The same for a command that only looks: root may look at the folder of another user.</summary>
    public Task<IState> OpenStateToReadAsync(CancellationToken cancel) => OpenedAsync(EngineOf(StateFolder, isToRead: true), cancel);

    /// <summary>Opens the state and what signing in works with.</summary>
    /// <param name="job">Whose folder and env-file: count; null where there is no job.</param>
    public Task<SignInServices> OpenAsync(Job? job, CancellationToken cancel) => OpenAsync(job, StateFolder, cancel);

    /// <summary>
    /// Opens what signing in works with, and remembers nothing: tokens and limits live in a folder that is removed. What is kept can be
    /// read.
    /// </summary>
    /// <param name="handler">What answers requests; null for the network.</param>
    public async Task<SignInServices> OpenForgetfulAsync(Job job, HttpMessageHandler? handler, CancellationToken cancel)
    {
        _scratch = Directory.CreateTempSubdirectory("cursiva-").FullName;
        var services = await OpenAsync(job, new StateFolder(_scratch), cancel);
        if (handler is not null)
            services = services with { Senders = new HttpSenders(Clock, job.Folder, handler) };
        if (StateFolder is var folder && !folder.IsThere)
            return services;
        var kept = new SecretStore(await OpenStateAsync(cancel), new Vault(new StoreKey(folder, Disk, services.Environment)), Clock);
        return services with { Secrets = new SecretSources(services.Environment, job.Folder, kept, Redactor, services.Watch.Warned) };
    }

    private async Task<IState> OpenedAsync(IStateEngine engine, CancellationToken cancel)
    {
        var state = await engine.OpenAsync(cancel);
        _states.Add(state);
        return state;
    }

    private async Task<SignInServices> OpenAsync(Job? job, StateFolder folder, CancellationToken cancel)
    {
        var state = await OpenedAsync(EngineOf(folder), cancel);
        IRequestWatch requests;
        ISignInWatch signIns;
        if (View.Debug || View.JsonLog)
        {
            var log = new LogView(Terminal.ErrorWriter, Clock, View, Advice, job?.Name);
            _open.Add(log);
            (requests, signIns) = (log, log);
        }
        else
        {
            var quiet = new QuietWatch(Terminal.Error, Advice);
            (requests, signIns) = (quiet, quiet);
        }

        var environment = EnvironmentFile.Over(Environment, job?.EnvFile, signIns.Warned);
        await SharedKey.CheckAsync(folder, Disk, environment, state, cancel);
        var services = SignInServices.Of(
            state,
            folder,
            Disk,
            Redactor,
            environment,
            job?.Folder ?? System.Environment.CurrentDirectory,
            state.Clock,
            Random.Shared.NextDouble,
            requests,
            signIns);
        _open.Add(services.Senders);
        return services;
    }

    /// <summary>The columns of each pull in the last run that found any; empty where nothing has run yet. Nothing is created.</summary>
    public async Task<IReadOnlyDictionary<string, KnownColumn[]>> ColumnsSeenAsync(Job job, CancellationToken cancel)
    {
        StateFolder folder;
        try
        {
            folder = StateFolder;
        }
        catch (RefusedException)
        {
            // Reading a job needs no place for the state; a run will say that there is none.
            return new Dictionary<string, KnownColumn[]>();
        }

        if (!folder.IsThere)
            return new Dictionary<string, KnownColumn[]>();
        var state = await OpenStateAsync(cancel);
        var runs = await new RunStore(state, new JobFolder(folder, job)).NewestAsync(MostLookedBack, cancel);
        return runs.LastOrDefault(run => run.Columns.Count > 0)?.Columns ?? [];
    }

    public async ValueTask DisposeAsync()
    {
        foreach (var open in _open)
            open.Dispose();
        foreach (var state in _states)
            await state.DisposeAsync();
        if (_scratch is not null)
            Directory.Delete(_scratch, recursive: true);
    }
}

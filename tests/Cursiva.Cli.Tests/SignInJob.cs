using System.Diagnostics;

namespace Cursiva.Cli.Tests;

/// <summary>A job whose identity is the test's matter, in a folder and with a state of its own.</summary>
internal sealed class SignInJob : IDisposable
{
    private readonly TemporaryFolder _folder = new();

    /// <param name="identity">The keys of the identity 'app', one line each; {cloud} stands for the address.</param>
    /// <param name="api">Further keys of the API.</param>
    public SignInJob(string address, string identity, string api = "", string get = "/depots")
    {
        Directory.CreateDirectory(State);
        Write(address, identity, api, get);
    }

    public string Folder => _folder.Path;

    public string State => _folder["state"];

    public string Path => _folder["app.cursiva.yaml"];

    public Dictionary<string, string?> Variables { get; } = new() { ["CLIENT_SECRET"] = Job.Secret };

    public string this[string file] => _folder[file];

    public void Write(string address, string identity, string api = "", string get = "/depots") => File.WriteAllText(Path, $"""
        cursiva: 1
        inputs:
          cloud: {address}
        identities:
          app:
        {Indent(identity, 4)}
        apis:
          exchange:
            base: "{"{cloud}"}/v2"
            identity: app
        {Indent(api, 4)}
        pulls:
          depots: {"{"} get: '{get}', rows: /items {"}"}
        """);

    public Task<Ended> RunAsync(params string[] arguments) => DoAsync(["run", Path, .. arguments]);

    public Task<Ended> DoAsync(string[] arguments, string? input = null, Func<Process, Task>? during = null) =>
        App.RunAsync(App.Cursiva, arguments, Folder, Environment, during, input);

    /// <summary>Signs in as a person: the address that the command prints goes to <paramref name="browse"/>, and what that gives is pasted.</summary>
    public Task<Ended> SignInAsync(Func<string, Task<string>> browse, params string[] arguments) => BrowseAsync(browse, ["sign-in", Path, "app", .. arguments]);

    /// <summary>Runs a command that prints an address for a person's browser, and visits it.</summary>
    public async Task<Ended> BrowseAsync(Func<string, Task<string>> browse, string[] arguments)
    {
        var start = new ProcessStartInfo(App.Cursiva, arguments)
        {
            WorkingDirectory = Folder,
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        foreach (var (name, value) in Environment)
            start.Environment[name] = value;
        using var process = Process.Start(start)!;
        var error = process.StandardError.ReadToEndAsync();
        var address = await process.StandardOutput.ReadLineAsync();
        if (address?.StartsWith("http", StringComparison.Ordinal) == true)
            await process.StandardInput.WriteLineAsync(await browse(address));
        process.StandardInput.Close();
        var rest = await process.StandardOutput.ReadToEndAsync();
        await process.WaitForExitAsync();
        return new Ended(process.ExitCode, rest, await error);
    }

    public IEnumerable<(string, string?)> Environment => [("CURSIVA_STATE", State), .. Variables.Select(pair => (pair.Key, pair.Value))];

    /// <summary>Makes a key pair NAME.p12, NAME.pem, NAME.crt in the job's folder.</summary>
    public async Task<string> CertificateAsync(string name, params string[] arguments)
    {
        (await DoAsync(["cert", "create", "--out", name, .. arguments])).ShouldEndWith(0);
        return this[name + ".crt"];
    }

    public void Dispose() => _folder.Dispose();

    private static string Indent(string text, int by) => string.Join('\n', text.Split('\n').Select(line => new string(' ', by) + line));
}

using System.Diagnostics;
using System.Text;
using Microsoft.Data.Sqlite;

namespace Cursiva.Cli.Tests;

/// <summary>A job in a folder of its own, with a state folder of its own, run by the built program.</summary>
internal sealed class Job : IDisposable
{
    public const string Secret = "cana+ry /secret%7";

    private readonly TemporaryFolder _folder = new();

    public Job(string address, string pulls, string reports = "", string api = "", string identity = "", string top = "")
    {
        Yaml = $"""
            cursiva: 1
            {top}
            identities:
              app:
                grant: client_credentials
                token-endpoint: {address}/oauth2/token
                client-id: brackwater-demo
                secret: env:BRACKWATER_SECRET
                {identity}
            apis:
              exchange:
                base: {address}/v2
                identity: app
                {api}
            pulls:
            {Indent(pulls)}
            {(reports.Length > 0 ? "reports:\n" + Indent(reports) : "")}
            """;
        Save();
    }

    public string Yaml { get; set; }

    public string Folder => _folder.Path;

    public string Path => _folder["late.cursiva.yaml"];

    public string State => _folder["state"];

    public string this[string file] => _folder[file];

    public void Save() => File.WriteAllText(Path, Yaml);

    public Task<Ended> RunAsync(params string[] arguments) => DoAsync(["run", Path, .. arguments]);

    public Task<Ended> DoAsync(string[] arguments, Func<Process, Task>? during = null, params (string Name, string? Value)[] environment) =>
        App.RunAsync(App.Cursiva, arguments, Folder, [.. Environment, .. environment], during);

    public IEnumerable<(string Name, string? Value)> Environment => [("CURSIVA_STATE", State), ("BRACKWATER_SECRET", Secret)];

    /// <summary>The reports and the landing of the newest run, by folder and file name. A kill may come after a run was done.</summary>
    public Dictionary<string, byte[]> Results()
    {
        var runs = Directory.GetDirectories(System.IO.Path.Combine(Directory.GetDirectories(this["state/jobs"]).Single(), "runs"));
        return Directory.GetFiles(this["reports"]).Concat(Directory.GetFiles(runs.Max(StringComparer.Ordinal)!, "*.jsonl", SearchOption.AllDirectories))
            .Where(file => !file.EndsWith(".part", StringComparison.Ordinal))
            .ToDictionary(file => System.IO.Path.GetFileName(System.IO.Path.GetDirectoryName(file)) + "/" + System.IO.Path.GetFileName(file), File.ReadAllBytes);
    }

    /// <summary>The landed rows of every pull of the newest run in the order in which they are read, with what each strand carries.</summary>
    public Dictionary<string, string> LandedRows()
    {
        var runs = Directory.GetDirectories(System.IO.Path.Combine(Directory.GetDirectories(this["state/jobs"]).Single(), "runs"));
        var landing = System.IO.Path.Combine(runs.Max(StringComparer.Ordinal)!, "landing");
        using var connection = new SqliteConnection($"Data Source={landing}/pages.db;Mode=ReadOnly;Pooling=False");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = "select p.pull, p.strand, p.segment, p.offset, p.length, coalesce(s.carried, '') from pages p left join strands s on s.pull = p.pull and s.strand = p.strand order by p.pull, p.strand, p.page";
        using var pages = command.ExecuteReader();
        var rows = new Dictionary<string, StringBuilder>();
        while (pages.Read())
        {
            var bytes = new byte[pages.GetInt32(4)];
            using var segment = File.OpenRead($"{landing}/{pages.GetString(0)}/segment-{pages.GetInt32(2):D5}.jsonl");
            segment.Position = pages.GetInt64(3);
            segment.ReadExactly(bytes);
            if (!rows.TryGetValue(pages.GetString(0), out var text))
                rows[pages.GetString(0)] = text = new StringBuilder();
            text.Append(pages.GetString(1)).Append(' ').Append(pages.GetString(5)).Append('\n').Append(Encoding.UTF8.GetString(bytes));
        }

        return rows.ToDictionary(pull => pull.Key, pull => pull.Value.ToString());
    }

    /// <summary>Checks that landing and reports are byte for byte those of another run, and that nothing temporary is left.</summary>
    public void ShouldHave(Dictionary<string, byte[]> expected)
    {
        var results = Results();
        results.Keys.ShouldBe(expected.Keys, ignoreOrder: true);
        foreach (var (name, bytes) in expected)
            results[name].AsSpan().SequenceEqual(bytes).ShouldBeTrue(name);
        Directory.GetFiles(Folder, "*.part", SearchOption.AllDirectories).ShouldBeEmpty();
    }

    public void Dispose() => _folder.Dispose();

    private static string Indent(string text) => string.Join('\n', text.Split('\n').Select(line => "  " + line));
}

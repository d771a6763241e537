using System.Text.RegularExpressions;

namespace Cursiva.Cli.Tests;

/// <summary>What a message advises works: its command, as printed, does what it promises.</summary>
public sealed partial class AdviceTests : IAsyncLifetime
{
    private const string Pull = "a: { get: '/consignments?size=50', rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }";

    // How many lines of one statement are looked at.
    private const int Around = 9;

    // Texts that speak of a command, and tell nobody to run it.
    private static readonly string[] s_mentions =
    [
        "# Made by cursiva schedule", "was not made by cursiva schedule", "cursiva schedule has not made any unit", "Made by cursiva overview", "was revoked with 'cursiva token revoke'",
        "step.Replace(\"cursiva secret keep NAME\"", "\"cursiva cert show FILE\"", "cursiva cert show {file}", "cursiva secret keep {source.Name}",
        "GeneratedRegex", "///", "with the next run or cursiva deliver", "without sending them; cursiva deliver sends them",
    ];

    private StandIn _cloud = null!;

    public async ValueTask InitializeAsync() => _cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "300");

    public ValueTask DisposeAsync()
    {
        _cloud.Dispose();
        return ValueTask.CompletedTask;
    }

    [Fact]
    public async Task A_strand_that_may_be_missing_is_skipped_by_the_line_that_the_message_gives()
    {
        using var job = new Job(_cloud.Address, "tenants: { get: /tenants, rows: /items }\nscans:\n  per: tenants\n  get: /tenants/{tenants.id}/scans\n  rows: /items");
        var refused = (await job.RunAsync()).ShouldEndWith(5);
        job.Yaml = job.Yaml.Replace("  per: tenants", "  per: tenants\n    " + SkipLine().Match(refused.Error).Groups[1].Value);
        job.Save();
        (await job.RunAsync()).ShouldEndWith(0).Out.ShouldContain("(1 skipped)");
    }

    [Fact]
    public async Task A_permission_that_is_missing_is_seen_in_the_token_that_the_message_shows()
    {
        using var job = new Job(_cloud.Address, Pull, identity: "permissions: [vehicles.export]");
        var check = await job.DoAsync(["check", job.Path, "--live"]);
        check.Out.ShouldContain("lacks vehicles.export");
        (await Advised.RunAsync($"cursiva token read --job {job.Path}", job.Folder, job.Environment)).All.ShouldContain("lacks vehicles.export");
    }

    [Fact]
    public async Task Every_command_that_a_message_or_a_page_names_is_one_with_its_options()
    {
        using var folder = new TemporaryFolder();
        (await App.RunAsync(App.Cursiva, ["manual", folder["out"]], folder.Path, [])).ShouldEndWith(0);
        var pages = Directory.GetFiles(folder["out/man1"]).ToDictionary(page => Path.GetFileNameWithoutExtension(page).Replace('-', ' ').Replace("sign in", "sign-in"), page => File.ReadAllText(page).Replace("\\-", "-"));
        var named = 0;
        foreach (var file in Directory.GetFiles(Path.Combine(App.Root, "src"), "*.cs", SearchOption.AllDirectories).Concat(Directory.GetFiles(Path.Combine(App.Root, "docs"), "*.md")).Append(Path.Combine(App.Root, "README.md")).Where(file => !file.Contains("/obj/")))
        {
            foreach (var match in Commands().Matches(File.ReadAllText(file)).Where(match => !match.Value.EndsWith(':')))
            {
                var words = match.Value.Split([' ', '\n'], StringSplitOptions.RemoveEmptyEntries);
                var command = words.Length > 2 && pages.ContainsKey(string.Join(' ', words[..3])) ? string.Join(' ', words[..3]) : string.Join(' ', words[..2]);
                pages.ShouldContainKey(command, $"{match.Value} in {file}");
                foreach (var option in words.Where(word => word.StartsWith("--", StringComparison.Ordinal) && word != "--help"))
                    pages[command].ShouldContain($"\\fB{option}\\fR", customMessage: $"{match.Value} in {file}");
                named++;
            }
        }

        named.ShouldBeGreaterThan(150);
    }

    /// <summary>The messages of the catalogue of refusals have a test of their own: <see cref="CatalogueAdviceTests"/>.</summary>
    [Fact]
    public void Every_message_that_tells_a_command_is_named_by_a_test_that_runs_it()
    {
        var named = Directory.GetFiles(Path.Combine(App.Root, "tests"), "*.cs", SearchOption.AllDirectories).Where(file => !file.Contains("/obj/"))
            .SelectMany(file => Names().Matches(File.ReadAllText(file))).Select(match => new Advised(match.Groups[1].Value, match.Groups[2].Value, match.Groups[3].Value)).ToList();
        var used = new HashSet<Advised>();
        List<string> without = [];
        foreach (var file in new[] { "Cursiva.Core", "Cursiva.Cli" }.SelectMany(project => Directory.GetFiles(Path.Combine(App.Root, "src", project), "*.cs", SearchOption.AllDirectories)).Where(IsOfMessages))
        {
            var lines = File.ReadAllLines(file);
            for (var at = 0; at < lines.Length; at++)
            {
                foreach (var command in Tells().Matches(lines[at]).Where(_ => !s_mentions.Any(lines[at].Contains)))
                {
                    var around = string.Join('\n', lines[Math.Max(0, at - Around)..Math.Min(lines.Length, at + Around)]);
                    var by = named.Where(one => one.File == Path.GetFileName(file) && around.Contains(one.What) && Covers(lines[at], one.Step, command)).ToList();
                    used.UnionWith(by);
                    if (by.Count == 0)
                        without.Add($"{Path.GetFileName(file)}({at + 1}): {lines[at].Trim()}");
                }
            }
        }

        string.Join('\n', without).ShouldBeEmpty();
        named.Where(one => one.File.Length > 0 && !used.Contains(one)).Select(one => $"{one.File}: {one.Step}").ShouldBeEmpty("nothing in the source says so any more");
        used.Count.ShouldBeGreaterThan(70);
    }

    private static bool Covers(string line, string step, Match command)
    {
        for (var at = line.IndexOf(step, StringComparison.Ordinal); at >= 0; at = line.IndexOf(step, at + 1, StringComparison.Ordinal))
        {
            if (at <= command.Index && at + step.Length >= command.Index + command.Length)
                return true;
        }

        return false;
    }

    // The reference of keys and the help have commands, too, which nobody is told to run in a certain plight.
    private static bool IsOfMessages(string file) => !new[] { "/obj/", "/bin/", "/Help/", "/Jobs/Shape/", "Refusals.cs", "Usual.cs" }.Any(file.Contains);

    // Words that begin a command, and the options after it on the line.
    [GeneratedRegex(@"(?<=[`""'\s(])cursiva (?:run|check|report|deliver|ledger|runs|token|secret|sign-in|call|cert|demo|schema|draft|shape|payload)\b(?: [a-z]+\b)?(?:(?: [A-Za-z{][\w./{}-]*)* --[a-z-]+)*")]
    private static partial Regex Commands();

    // What a test names a message by: its file, words of it, and its step.
    [GeneratedRegex("""[({]\s*"(\w+\.cs)", "((?:[^"\\]|\\.)*)", "((?:[^"\\]|\\.)*)["]""")]
    private static partial Regex Names();

    [GeneratedRegex(@"\bcursiva (?:run|check|report|deliver|ledger|runs|token|secret|sign-in|call|cert|demo|schema|draft|shape|payload|state|overview|schedule)\b")]
    private static partial Regex Tells();

    [GeneratedRegex(@"(skip-when: \[.*?\])")]
    private static partial Regex SkipLine();
}

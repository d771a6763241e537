using System.Text.RegularExpressions;
using Cursiva.Core.Files;

namespace Cursiva.Core.Tests;

/// <summary>Data walks one way: a folder of Core imports only from folders with a lower number.</summary>
public sealed partial class HouseTests
{
    private static readonly Dictionary<string, int> s_floors = new()
    {
        ["Files"] = 1,
        ["Refusals"] = 1,
        ["Jobs"] = 2,
        ["State"] = 2,
        ["Secrets"] = 3,
        ["Http"] = 4,
        ["Encryption"] = 4,
        ["Identity"] = 5,
        ["Apis"] = 6,
        ["Landing"] = 7,
        ["Tables"] = 8,
        ["Pulls"] = 9,
        ["Reports"] = 10,
        ["Ledger"] = 10,
        ["Writes"] = 11,
        ["Deliveries"] = 12,
        ["Runs"] = 13,
        ["Checks"] = 14,
        ["Drafts"] = 15,
        ["Operations"] = 16,
    };

    private static string Core => Path.Combine(Repository.Root, "src", "Cursiva.Core");

    [Fact]
    public void Every_folder_has_its_number()
    {
        var folders = Directory.GetDirectories(Core).Select(Path.GetFileName).Where(name => name is not ("bin" or "obj"));
        folders.ShouldAllBe(name => s_floors.ContainsKey(name!));
    }

    [Fact]
    public void A_folder_imports_only_from_folders_with_a_lower_number() =>
        Sources().SelectMany(Imports).Where(import => s_floors[import.To] >= s_floors[import.From] && import.To != import.From)
            .Select(import => $"{import.File}: {import.From} must not import {import.To}").ShouldBeEmpty();

    [Fact]
    public void The_check_of_imports_would_notice_one_against_the_walk() =>
        Imports(("Files/Bad.cs", "namespace Cursiva.Core.Files;\nusing Cursiva.Core.Runs;\nvar x = new Http.Request();"))
            .Select(import => import.To).ShouldBe(["Runs", "Http"]);

    [Fact]
    public void Core_touches_no_console_no_clock_of_the_machine_and_no_process_exit() =>
        Sources().Where(source => Forbidden().IsMatch(source.Text)).Select(source => source.File).ShouldBeEmpty();

    [Fact]
    public void A_file_has_one_public_type_named_like_it() =>
        Sources().Where(source => TopTypes().Matches(source.Text) is var types
                && (types.Count > 1 || types.Any(type => type.Groups[1].Value != Path.GetFileNameWithoutExtension(source.File))))
            .Select(source => source.File).ShouldBeEmpty();

    [Fact]
    public void No_file_is_long() =>
        Sources().Where(source => source.Text.Count(c => c == '\n') > 300).Select(source => source.File).ShouldBeEmpty();

    [Fact]
    public void Core_references_neither_the_programs_nor_the_web_server() =>
        typeof(Disk).Assembly.GetReferencedAssemblies().Select(assembly => assembly.Name!)
            .Where(name => name.StartsWith("Cursiva", StringComparison.OrdinalIgnoreCase) || name.Contains("AspNetCore") || name == "System.Console" || name.StartsWith("Spectre"))
            .ShouldBeEmpty();

    [Fact]
    public void Values_get_to_a_terminal_in_one_way()
    {
        var cli = Path.Combine(Repository.Root, "src", "Cursiva.Cli");
        Directory.GetFiles(cli, "*.cs", SearchOption.AllDirectories)
            .Select(path => Path.GetRelativePath(cli, path))
            .Where(path => !path.StartsWith("bin") && !path.StartsWith("obj") && path != Path.Combine("Rendering", "Shown.cs"))
            .Where(path => Unshown().IsMatch(File.ReadAllText(Path.Combine(cli, path))))
            .ShouldBeEmpty("texts and markup of values are made by Shown alone");
    }

    [GeneratedRegex(@"\bnew Text\(|Markup\.Escape|MarkupLineInterpolated|MarkupInterpolated|\.MarkupLine\(\$?""[^""]*\{(?!(?:summary\.(?:Run|Skipped)|end\}|Durations|\())|[Cc]onsole\.WriteLine\(\$")]
    private static partial Regex Unshown();

    private static IEnumerable<(string File, string Text)> Sources() =>
        Directory.GetFiles(Core, "*.cs", SearchOption.AllDirectories)
            .Select(path => Path.GetRelativePath(Core, path))
            .Where(path => !path.StartsWith("bin") && !path.StartsWith("obj"))
            .Select(path => (path, File.ReadAllText(Path.Combine(Core, path))));

    // Both ways to name another folder's types: by a using, or by the end of its namespace.
    private static IEnumerable<(string File, string From, string To)> Imports((string File, string Text) source)
    {
        var from = source.File.Split('/')[0];
        return Named().Matches(source.Text).Select(match => match.Groups[1].Success ? match.Groups[1].Value : match.Groups[2].Value)
            .Where(to => s_floors.ContainsKey(to) && to != from)
            .Distinct()
            .Select(to => (source.File, from, to));
    }

    [GeneratedRegex(@"\bCursiva\.Core\.(\w+)|(?<![\w.""/])(Files|Refusals|Jobs|State|Secrets|Http|Identity|Apis|Landing|Tables|Pulls|Reports|Deliveries|Runs|Checks)\.[A-Z]\w+")]
    private static partial Regex Named();

    [GeneratedRegex(@"\bConsole\.|DateTime(Offset)?\.(Utc)?Now|Stopwatch\.|Environment\.Exit|Thread\.Sleep|static (?!readonly)\w+(<.*>)? _?\w+ = ")]
    private static partial Regex Forbidden();

    [GeneratedRegex(@"(?m)^public (?:(?:static|sealed|abstract|partial|readonly|unsafe) )*(?:class|record struct|record|struct|interface|enum) (\w+)")]
    private static partial Regex TopTypes();
}

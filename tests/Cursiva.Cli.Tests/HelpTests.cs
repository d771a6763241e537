using System.Text.RegularExpressions;

namespace Cursiva.Cli.Tests;

/// <summary>Whoever asks for help gets it, and a misspelt option is told as that.</summary>
public sealed class HelpTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Theory]
    [InlineData("", "cursiva [command] [options]")]
    [InlineData("help", "cursiva [command] [options]")]
    [InlineData("-h", "cursiva [command] [options]")]
    [InlineData("run help", "cursiva run <JOB> [options]")]
    [InlineData("help run", "cursiva run <JOB> [options]")]
    [InlineData("secret help", "cursiva secret [command] [options]")]
    [InlineData("help secret keep", "cursiva secret keep <NAME> [options]")]
    [InlineData("help job-file", "reports:")]
    [InlineData("help paging", "next-link:")]
    [InlineData("help signing-in", "client_credentials")]
    [InlineData("help exit-codes", "this job is already running")]
    public async Task Help_is_had_in_every_usual_way(string arguments, string told) =>
        (await DoAsync(arguments)).ShouldEndWith(0).Out.ShouldContain(told);

    [Theory]
    [InlineData("check --fromat json x.cursiva.yaml", "there is no option --fromat; did you mean '--format'?", "See 'cursiva check --help'.")]
    [InlineData("run x.cursiva.yaml --dedline=2h", "there is no option --dedline; did you mean '--deadline'?", "See 'cursiva run --help'.")]
    [InlineData("secret keep --x", "there is no option --x; the options are --as-is, --expires", "See 'cursiva secret keep --help'.")]
    [InlineData("call x.cursiva.yaml api /me --bdoy x", "there is no option --bdoy; did you mean '--body'?", "")]
    [InlineData("rnu x.cursiva.yaml", "'rnu'", "See 'cursiva --help'.")]
    public async Task An_option_that_does_not_exist_is_told_with_the_nearest_one(string arguments, string told, string see)
    {
        var ended = (await DoAsync(arguments)).ShouldEndWith(2);
        ended.Error.ShouldContain(told);
        ended.Error.ShouldContain(see);
        ended.Out.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_value_may_look_like_an_option() =>
        (await DoAsync("call gone.cursiva.yaml api /me --body --x")).ShouldEndWith(3).Error.ShouldContain("gone.cursiva.yaml: there is no such file");

    [Fact]
    public async Task Every_command_has_an_example_that_can_be_typed_as_it_stands()
    {
        var examples = new List<string>();
        var commands = new Queue<string>([""]);
        var seen = 0;
        while (commands.TryDequeue(out var command))
        {
            seen++;
            var help = (await DoAsync(command + " --help")).ShouldEndWith(0).Out;
            var shown = Lines(help, "Example").Concat(Lines(help, "Examples")).ToList();
            shown.ShouldNotBeEmpty($"cursiva {command}");
            examples.AddRange(shown);
            foreach (var name in Lines(help, "Commands").Select(line => line.Split(' ')[0]))
                commands.Enqueue($"{command} {name}".Trim());
        }

        seen.ShouldBeGreaterThan(20);
        foreach (var example in examples.Distinct())
            (await App.RunAsync("bash", ["-c", $"\"$CURSIVA\" {example["cursiva ".Length..]} --help"], _folder.Path, [("CURSIVA", App.Cursiva)])).Code.ShouldBe(0, example);
    }

    private static IEnumerable<string> Lines(string help, string head) =>
        Regex.Match(help, $@"^{head}:\n((?:  .*\n)+)", RegexOptions.Multiline).Groups[1].Value.Split('\n', StringSplitOptions.RemoveEmptyEntries).Select(line => line.Trim());

    private Task<Ended> DoAsync(string arguments) => App.RunAsync(App.Cursiva, arguments.Split(' ', StringSplitOptions.RemoveEmptyEntries), _folder.Path, [("CURSIVA_STATE", _folder["state"])]);
}

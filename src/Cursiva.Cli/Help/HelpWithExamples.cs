using System.CommandLine;
using System.CommandLine.Help;
using System.CommandLine.Invocation;

namespace Cursiva.Cli.Help;

/// <summary>The help of a command, followed by its examples, and at the top by the topics.</summary>
internal sealed class HelpWithExamples(HelpAction usual) : SynchronousCommandLineAction
{
    // Whoever asks for help need not give the arguments.
    public override bool ClearsParseErrors => true;

    public override int Invoke(ParseResult parseResult)
    {
        var code = usual.Invoke(parseResult);
        var output = parseResult.InvocationConfiguration.Output;
        var path = PathOf(parseResult);
        if (Examples.All.TryGetValue(path, out var examples))
            output.WriteLine(
                $"{(examples.Count == 1 ? "Example" : "Examples")}:\n{string.Join('\n', examples.Select(example => "  " + example))}\n");
        if (path == "cursiva")
            output.WriteLine($"Topics:\n{string.Join('\n', Topics.All.Keys.Select(topic => "  cursiva help " + topic))}\n");
        return code;
    }

    /// <summary>The names of a command and those above it: <c>cursiva secret keep</c>.</summary>
    public static string PathOf(ParseResult parsed)
    {
        var names = new List<string>();
        for (var result = parsed.CommandResult; result is not null; result = result.Parent as System.CommandLine.Parsing.CommandResult)
            names.Insert(0, result.Parent is null ? "cursiva" : result.Command.Name);
        return string.Join(' ', names);
    }
}

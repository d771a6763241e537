using Cursiva.Core.Files;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Secrets;

/// <summary>
/// A file of <c>NAME=value</c> lines. Empty lines and lines that begin with <c>#</c> do not count, <c>export</c> before a name is
/// skipped, and a value may stand in single or double quotes.
/// </summary>
public static class EnvironmentFile
{
    private const uint Root = 0;

    /// <summary>Looks a variable up in the environment first, then in the file.</summary>
    /// <param name="path">The file, or null for none.</param>
    /// <param name="warn">Is told of what a person should mend, which stops nothing.</param>
    /// <exception cref="RefusedException">The file cannot be read, others may write it, or a line is no <c>NAME=value</c>.</exception>
    public static Func<string, string?> Over(Func<string, string?> environment, string? path, Action<string> warn)
    {
        if (path is null)
            return environment;
        if (FileOwner.Of(path) is { } owner)
        {
            var mode = Convert.ToString((int)owner.Mode & 511, 8);
            if (owner.OthersMayWrite || (!owner.IsMine && owner.User != Root))
                throw Wrong(
                    $"the environment file {path} {(owner.OthersMayWrite ? $"can be written by others (mode {mode})" : $"belongs to another user (number {owner.User})")}, who could choose the job's secrets",
                    $"restrict it to yourself: chmod 600 {path}{(owner.IsMine ? "" : $"; sudo chown $(id -u) {path}")}");
            if ((owner.Mode & UnixFileMode.OtherRead) != 0)
                warn($"the environment file {path} can be read by others (mode {mode}); chmod 600 restricts it to you");
        }

        var values = Read(path);
        return name => environment(name) ?? values.GetValueOrDefault(name);
    }

    private static Dictionary<string, string> Read(string path)
    {
        string[] lines;
        try
        {
            lines = File.ReadAllLines(path);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw Wrong(
                $"the environment file {path} cannot be read ({(File.Exists(path) ? "no permission" : "there is no such file")})",
                "name a readable file of NAME=value lines");
        }

        var values = new Dictionary<string, string>(StringComparer.Ordinal);
        for (var i = 0; i < lines.Length; i++)
        {
            var line = lines[i].Trim();
            if (line.Length == 0 || line[0] == '#')
                continue;
            if (line.StartsWith("export ", StringComparison.Ordinal))
                line = line["export ".Length..].TrimStart();
            var equals = line.IndexOf('=', StringComparison.Ordinal);

            // What stands in the line may be a secret: it is not repeated.
            if (equals < 1 || line[..equals].Any(c => !char.IsAsciiLetterOrDigit(c) && c != '_'))
                throw Wrong($"line {i + 1} of the environment file {path} is not a NAME=value", "write one NAME=value on each line");
            values[line[..equals]] = Unquote(line[(equals + 1)..]);
        }

        return values;
    }

    private static string Unquote(string value) =>
        value.Length >= 2 && value[0] == value[^1] && value[0] is '"' or '\'' ? value[1..^1] : value;

    private static RefusedException Wrong(string what, string next) => new(new Refusal(Outcome.JobFileWrong, what) { NextStep = next });
}

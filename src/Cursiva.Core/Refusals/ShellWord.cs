namespace Cursiva.Core.Refusals;

/// <summary>
/// A value in a command that a message tells, such that a shell takes it as one word (POSIX.1-2017, Shell Command Language, section 2.2).
/// </summary>
public static class ShellWord
{
    /// <summary>The value as it is where a shell would not read anything into it, and in single quotes otherwise.</summary>
    public static string Of(string value) =>
        value.Length > 0 && value.All(c => char.IsLetterOrDigit(c) || "/._-=+:,@%".Contains(c, StringComparison.Ordinal))
            ? value
            : $"'{value.Replace("'", "'\\''", StringComparison.Ordinal)}'";
}

namespace Cursiva.Cli.Tests;

/// <summary>Programs of the machine that some tests need.</summary>
internal static class Tools
{
    /// <summary>Skips the test, and says why, where a program is not installed.</summary>
    public static void Require(string program)
    {
        var folders = (Environment.GetEnvironmentVariable("PATH") ?? "").Split(':');
        Assert.SkipUnless(folders.Any(folder => File.Exists(Path.Combine(folder, program))), $"{program} is not installed; on Debian: apt-get install {(program == "script" ? "bsdutils" : program)}");
    }
}

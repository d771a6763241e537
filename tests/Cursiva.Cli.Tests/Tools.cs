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

    /// <summary>Runs a job to its end and gives its peak memory, in MB.</summary>
    public static async Task<double> PeakMemoryAsync(Job job)
    {
        Require("python3");
        const string Measure = "import resource,subprocess,sys; subprocess.run(sys.argv[1:], check=True, stdout=subprocess.DEVNULL); print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024)";
        var ended = (await App.RunAsync("python3", ["-c", Measure, App.Cursiva, "run", job.Path], job.Folder, job.Environment)).ShouldEndWith(0);
        return double.Parse(ended.Out, System.Globalization.CultureInfo.InvariantCulture);
    }
}

using System.Diagnostics;

namespace Cursiva.Cli.Tests;

/// <summary>The built program.</summary>
internal static class App
{
    public static string Folder { get; } = Path.Combine(FindRoot(AppContext.BaseDirectory), "artifacts", "app");

    public static string Root => Path.GetFullPath(Path.Combine(Folder, "..", ".."));

    public static string Cursiva => Path.Combine(Folder, "cursiva");

    /// <summary>Runs a program to its end.</summary>
    /// <param name="during">Is given the process while it runs, for signals and kills.</param>
    public static async Task<Ended> RunAsync(string program, IEnumerable<string> arguments, string folder, IEnumerable<(string Name, string? Value)> environment, Func<Process, Task>? during = null, string? input = null)
    {
        var start = new ProcessStartInfo(program, arguments)
        {
            WorkingDirectory = folder,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            RedirectStandardInput = true,
        };
        foreach (var (name, value) in environment)
            start.Environment[name] = value;

        using var process = Process.Start(start)!;
        await process.StandardInput.WriteAsync(input);
        process.StandardInput.Close();
        var output = process.StandardOutput.ReadToEndAsync();
        var error = process.StandardError.ReadToEndAsync();
        if (during is not null)
            await during(process);
        using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(120));
        try
        {
            await process.WaitForExitAsync(patience.Token);
        }
        catch (OperationCanceledException)
        {
            process.Kill(entireProcessTree: true);
            throw new TimeoutException($"{program} {string.Join(' ', arguments)} did not end:\n{await error}");
        }

        return new Ended(process.ExitCode, await output, await error);
    }

    private static string FindRoot(string folder) =>
        File.Exists(Path.Combine(folder, "Cursiva.slnx")) ? folder : FindRoot(Path.GetDirectoryName(folder)!);
}

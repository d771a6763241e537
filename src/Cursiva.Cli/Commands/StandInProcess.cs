using System.Diagnostics;

namespace Cursiva.Cli.Commands;

/// <summary>The stand-in cloud as a process of its own, on a free loopback port; disposing stops it.</summary>
internal sealed class StandInProcess : IAsyncDisposable
{
    private const string Announcement = "listening on ";

    private readonly Process _process;

    private StandInProcess(Process process, string address)
    {
        _process = process;
        Address = address;
    }

    public string Address { get; }

    /// <exception cref="InvalidOperationException">The stand-in is missing or does not start.</exception>
    public static async Task<StandInProcess> StartAsync(IEnumerable<string> arguments, CancellationToken cancel)
    {
        var path = Path.Combine(AppContext.BaseDirectory, "stand-in", "cursiva-stand-in");
        if (!File.Exists(path))
            throw new InvalidOperationException($"the stand-in cloud is not at {path}; start Cursiva with its launcher, which builds it");

        var process = Process.Start(new ProcessStartInfo(path, arguments) { RedirectStandardOutput = true, UseShellExecute = false })!;
        var line = await process.StandardOutput.ReadLineAsync(cancel);
        if (line?.StartsWith(Announcement, StringComparison.Ordinal) != true)
            throw new InvalidOperationException($"the stand-in cloud did not start; it said '{line}'");
        return new StandInProcess(process, line[Announcement.Length..]);
    }

    /// <summary>Lets a day pass in the stand-in's world.</summary>
    public async Task NextDayAsync(CancellationToken cancel)
    {
        using var client = new HttpClient();
        using var answer = await client.PostAsync(new Uri(Address + "/world/next-day"), null, cancel);
        answer.EnsureSuccessStatusCode();
    }

    /// <summary>Where its mail server listens, HOST:PORT.</summary>
    public async Task<string> MailAsync(CancellationToken cancel)
    {
        using var client = new HttpClient();
        return await client.GetStringAsync(new Uri(Address + "/mail"), cancel);
    }

    public async ValueTask DisposeAsync()
    {
        if (!_process.HasExited)
            _process.Kill();
        await _process.WaitForExitAsync();
        _process.Dispose();
    }
}

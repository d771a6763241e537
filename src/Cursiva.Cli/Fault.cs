namespace Cursiva.Cli;

/// <summary>Tells a fault of ours: calmly, and with a stack trace only for those who asked for one.</summary>
internal static class Fault
{
    public static async Task TellAsync(TextWriter writer, Exception error, bool debug)
    {
        await writer.WriteLineAsync($"cursiva: a fault of ours: {error.GetType().Name}: {error.Message}");
        await writer.WriteLineAsync(debug ? error.ToString() : "  next: run again with --log debug and report what it prints");
        await writer.FlushAsync();
    }
}

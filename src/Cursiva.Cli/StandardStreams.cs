using System.Runtime.InteropServices;
using System.Text;

namespace Cursiva.Cli;

/// <summary>
/// Standard streams that were closed when the process began. The runtime then has pipes and files of its own under the numbers 0 to 2, and
/// a
/// message to standard error would go into one of them. So the program begins again with /dev/null in their place.
/// </summary>
internal static partial class StandardStreams
{
    private const int GetFlags = 1;
    private const int CloseOnExec = 1;
    private const int ReadWrite = 2;

    /// <summary>Begins the program again where a standard stream is none; does not return then.</summary>
    public static void Ensure()
    {
        // What a parent hands down is never closed on exec; what the runtime opens always is.
        int[] missing = [.. Enumerable.Range(0, 3).Where(
            stream => fcntl(stream, GetFlags, 0) is var flags && (flags < 0 || (flags & CloseOnExec) != 0))];
        if (missing.Length == 0)
            return;
        string[] arguments = [.. Encoding.UTF8.GetString(File.ReadAllBytes("/proc/self/cmdline")).Split('\0')[..^1]];
        var nothing = open("/dev/null", ReadWrite);
        foreach (var stream in missing)
            _ = dup2(nothing, stream);
        _ = execv("/proc/self/exe", [.. arguments, null]);
    }

    [LibraryImport("libc", SetLastError = true)]
    private static partial int fcntl(int descriptor, int command, int argument);

    [LibraryImport("libc", StringMarshalling = StringMarshalling.Utf8, SetLastError = true)]
    private static partial int open(string path, int flags);

    [LibraryImport("libc", SetLastError = true)]
    private static partial int dup2(int from, int to);

    [LibraryImport("libc", StringMarshalling = StringMarshalling.Utf8, SetLastError = true)]
    private static partial int execv(string path, string?[] arguments);
}

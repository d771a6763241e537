using System.Runtime.InteropServices;

namespace Cursiva.Core.Files;

/// <summary>Whose a file or folder is (statx(2)), which .NET does not tell.</summary>
/// <param name="User">The number of its owner.</param>
/// <param name="Mode">Who may do what with it.</param>
public sealed partial record FileOwner(uint User, UnixFileMode Mode)
{
    private const int AtWorkingFolder = -100;
    private const uint BasicStats = 0x7ff;
    private const int UserAt = 20;

    /// <summary>The number of the user that this process acts as.</summary>
    public static uint Me => EffectiveUser();

    /// <summary>Whether it belongs to the user that this process acts as.</summary>
    public bool IsMine => User == Me;

    /// <summary>Whether somebody else may write to it.</summary>
    public bool OthersMayWrite => (Mode & (UnixFileMode.GroupWrite | UnixFileMode.OtherWrite)) != 0;

    /// <summary>Looks at a file or folder; null when it is not there.</summary>
    public static FileOwner? Of(string path)
    {
        var buffer = new byte[256];
        if (Statx(AtWorkingFolder, path, 0, BasicStats, buffer) != 0)
            return null;
        return new FileOwner(BitConverter.ToUInt32(buffer, UserAt), File.GetUnixFileMode(path));
    }

    [LibraryImport("libc", EntryPoint = "statx", StringMarshalling = StringMarshalling.Utf8, SetLastError = true)]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    private static partial int Statx(int folder, string path, int flags, uint mask, [Out] byte[] result);

    [LibraryImport("libc", EntryPoint = "geteuid")]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    private static partial uint EffectiveUser();
}

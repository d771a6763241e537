namespace Cursiva.Core.Tests;

/// <summary>The checkout that the tests were built from.</summary>
internal static class Repository
{
    public static string Root { get; } = Find(AppContext.BaseDirectory);

    private static string Find(string folder) =>
        File.Exists(Path.Combine(folder, "Cursiva.slnx")) ? folder : Find(Path.GetDirectoryName(folder)!);
}

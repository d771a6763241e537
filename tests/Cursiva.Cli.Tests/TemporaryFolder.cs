namespace Cursiva.Cli.Tests;

/// <summary>A folder of one test, removed after it.</summary>
internal sealed class TemporaryFolder : IDisposable
{
    public string Path { get; } = Directory.CreateTempSubdirectory("cursiva-test-").FullName;

    public string this[string name] => System.IO.Path.Combine(Path, name);

    public void Dispose() => Directory.Delete(Path, recursive: true);
}

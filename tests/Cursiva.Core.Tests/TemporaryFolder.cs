namespace Cursiva.Core.Tests;

/// <summary>A folder of one test, removed after it.</summary>
internal sealed class TemporaryFolder : IDisposable
{
    public TemporaryFolder() => Path = Directory.CreateTempSubdirectory("cursiva-test-").FullName;

    public string Path { get; }

    public string this[string name] => System.IO.Path.Combine(Path, name);

    public string Write(string name, string text)
    {
        File.WriteAllText(this[name], text);
        return this[name];
    }

    public void Dispose() => Directory.Delete(Path, recursive: true);
}

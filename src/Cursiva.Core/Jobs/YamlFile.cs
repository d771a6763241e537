using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Jobs;

/// <summary>A YAML file, read into nodes that know their places.</summary>
internal sealed class YamlFile
{
    private YamlFile(string name, byte[] bytes, YamlMappingNode? root)
    {
        Name = name;
        Bytes = bytes;
        Root = root;
    }

    /// <summary>The file as messages call it.</summary>
    public string Name { get; }

    public byte[] Bytes { get; }

    /// <summary>The mapping at the top; null when the file has none, which was then reported.</summary>
    public YamlMappingNode? Root { get; }

    public Place Start => new(Name, 1, 1);

    /// <summary>Reads a file; what is wrong goes to <paramref name="mistakes"/>, and the root is then missing.</summary>
    public static YamlFile Read(string path, string name, List<Mistake> mistakes)
    {
        byte[] bytes;
        try
        {
            bytes = File.ReadAllBytes(path);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            var found = File.Exists(path) ? "the file cannot be read" : "there is no such file";
            mistakes.Add(new Mistake(new Place(name), found, $"write the path of a readable file (looked for {Path.GetFullPath(path)})"));
            return new YamlFile(name, [], null);
        }

        if (bytes.Length > YamlGuard.LargestFile)
        {
            mistakes.Add(
                new Mistake(
                    new Place(name),
                    $"the file has {bytes.Length:N0} bytes, but at most {YamlGuard.LargestFile:N0} are allowed",
                    "name a job or shared file; data belongs in a CSV file named by per:"));
            return new YamlFile(name, [], null);
        }

        return Of(name, bytes, mistakes);
    }

    /// <summary>Every text in it.</summary>
    public IEnumerable<string> Texts() =>
        Root is null ? [] : Root.AllNodes.OfType<YamlScalarNode>().Select(node => node.Value).OfType<string>();

    /// <summary>Reads the bytes of a file.</summary>
    public static YamlFile Of(string name, byte[] bytes, List<Mistake> mistakes)
    {
        try
        {
            using (var look = new StreamReader(new MemoryStream(bytes)))
            {
                if (YamlGuard.Look(look) is { } wrong)
                {
                    mistakes.Add(
                        new Mistake(
                            new Place(name, (int)wrong.Place.Line, (int)wrong.Place.Column),
                            wrong.Found,
                            "write the keys out, or move the shared part into a file under include:"));
                    return new YamlFile(name, bytes, null);
                }
            }

            var stream = new YamlStream();
            using var reader = new StreamReader(new MemoryStream(bytes));
            stream.Load(reader);
            if (stream.Documents.Count > 0 && stream.Documents[0].RootNode is YamlMappingNode root)
                return new YamlFile(name, bytes, root);
            mistakes.Add(new Mistake(new Place(name, 1, 1), "the file has no keys", "write KEY: VALUE lines"));
        }
        catch (Exception error) when (error is YamlException or InvalidOperationException or ArgumentException or FormatException)
        {
            // The reader of YAML does not name the place of everything that it cannot read.
            var place = error is YamlException { Start: var start }
                ? new Place(name, (int)start.Line, (int)start.Column)
                : new Place(name, 1, 1);
            mistakes.Add(new Mistake(
                place,
                $"this is not YAML ({error.Message.TrimEnd('.')})",
                "correct the line; often it is the indentation, a missing space after a colon, or a key given twice"));
        }

        return new YamlFile(name, bytes, null);
    }

    public Place At(YamlNode node) => new(Name, (int)node.Start.Line, (int)node.Start.Column);
}

using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Drafts;

/// <summary>The parts of an OpenAPI 3 description (JSON or YAML) that a draft needs: servers, and the operations that read listings.</summary>
/// <param name="Server">The address of its first server; empty for none.</param>
/// <param name="Operations">Its GET operations whose answers are arrays, or have one, in the order of their paths.</param>
public sealed record ApiDescription(string Server, IReadOnlyList<ApiOperation> Operations)
{
    private const int LongestWords = 80;
    private const int MostShown = 6;

    /// <summary>Reads a description.</summary>
    /// <exception cref="RefusedException">The file cannot be read, or is no OpenAPI 3 description.</exception>
    public static ApiDescription Read(string path)
    {
        try
        {
            var stream = new YamlStream();
            using var reader = new StreamReader(path);
            stream.Load(reader);
            if (stream.Documents is not [{ RootNode: YamlMappingNode root }, ..] || Text(root, "openapi") is not { } version || !version.StartsWith('3'))
                throw Refuse($"{path} is no OpenAPI 3 description", "give the file that has openapi: 3 at its top, as JSON or YAML");
            return new ApiDescription(ServerOf(root), [.. Listings(root).OrderBy(operation => operation.Path, StringComparer.Ordinal)]);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException or YamlException)
        {
            throw Refuse($"the description {path} cannot be read: {error.Message}", "name a file that exists and is JSON or YAML", error);
        }
    }

    /// <summary>An operation by its id or path.</summary>
    /// <exception cref="RefusedException">There is none, or its path or server cannot be asked as they are.</exception>
    public ApiOperation Find(string name)
    {
        var found = Operations.FirstOrDefault(operation => operation.Id == name) ?? Operations.FirstOrDefault(operation => operation.Path == name)
            ?? throw Refuse($"the description has no listing '{OneLine.Of(name)}'", $"it has {string.Join(", ", Operations.OrderBy(operation => Nearest.Distance(operation.Id, name)).Take(MostShown).Select(operation => operation.Id.Length > 0 ? operation.Id : operation.Path))}");
        if (found.Path.Contains('{', StringComparison.Ordinal))
            throw Refuse($"the path of '{name}', {found.Path}, wants a value", "draft from the address with a value in its place: cursiva draft https://...");
        if (AskedAddress.TryParse(found.Address(this)) is null)
            throw Refuse($"the description names the server '{OneLine.Of(Server)}', which is no whole address", $"draft from the address: cursiva draft https://HOST{found.Path}");
        return found;
    }

    /// <summary>The operation of an address; null where the description has none.</summary>
    public ApiOperation? At(AskedAddress address) => Operations.FirstOrDefault(operation => address.Whole.AbsolutePath.EndsWith(operation.Path, StringComparison.Ordinal));

    private static string ServerOf(YamlMappingNode root) =>
        Child(root, "servers") is YamlSequenceNode { Children: [YamlMappingNode first, ..] } ? Text(first, "url") ?? "" : "";

    private static IEnumerable<ApiOperation> Listings(YamlMappingNode root)
    {
        foreach (var (path, methods) in Child(root, "paths") as YamlMappingNode ?? [])
        {
            if (methods is not YamlMappingNode shared || Child(shared, "get") is not YamlMappingNode get)
                continue;
            var schema = SchemaOf(root, get);
            if (!HasArray(root, schema, 0))
                continue;
            List<string> parameters = [.. Parameters(root, shared).Concat(Parameters(root, get)).Distinct()];
            var pages = parameters.Exists(name => PageMember.Plain(name) is var plain && (PageNames.IsPage(plain) || PageNames.IsOffset(plain) || PageNames.IsCursor(plain) || PageNames.SizeParameters.Any(size => PageMember.Plain(size) == plain)))
                || Members(root, schema).Any(name => PageNames.IsNext(PageMember.Plain(name)) || PageNames.IsTotal(PageMember.Plain(name)));
            yield return new ApiOperation(Text(get, "operationId") ?? "", ((YamlScalarNode)path).Value!, Cut(Text(get, "summary") ?? Text(get, "description") ?? ""), parameters, pages);
        }
    }

    private static IEnumerable<string> Parameters(YamlMappingNode root, YamlMappingNode node) =>
        ((Child(node, "parameters") as YamlSequenceNode)?.Children ?? []).Select(parameter => Resolved(root, parameter)).Where(parameter => parameter is not null && Text(parameter, "in") == "query").Select(parameter => Text(parameter!, "name")).OfType<string>();

    private static YamlMappingNode? SchemaOf(YamlMappingNode root, YamlMappingNode operation)
    {
        if (Child(operation, "responses") is not YamlMappingNode responses)
            return null;
        var response = Resolved(root, Child(responses, "200") ?? Child(responses, "2XX") ?? Child(responses, "default"));
        return response is null || Child(response, "content") is not YamlMappingNode content ? null
            : content.Children.Where(type => ((YamlScalarNode)type.Key).Value!.Contains("json", StringComparison.Ordinal)).Select(type => Resolved(root, Child((YamlMappingNode)type.Value, "schema"))).FirstOrDefault();
    }

    private static bool HasArray(YamlMappingNode root, YamlMappingNode? schema, int depth) => schema is not null && depth < 4
        && (Text(schema, "type") == "array" || Parts(root, schema).Any(part => HasArray(root, part, depth + 1))
            || ((Child(schema, "properties") as YamlMappingNode)?.Children.Values.Any(property => HasArray(root, Resolved(root, property), depth + 2)) ?? false));

    private static IEnumerable<string> Members(YamlMappingNode root, YamlMappingNode? schema) => schema is null ? []
        : ((Child(schema, "properties") as YamlMappingNode)?.Children.Keys.Select(name => ((YamlScalarNode)name).Value!) ?? []).Concat(Parts(root, schema).SelectMany(part => Members(root, part)));

    private static IEnumerable<YamlMappingNode> Parts(YamlMappingNode root, YamlMappingNode schema) =>
        ((Child(schema, "allOf") as YamlSequenceNode)?.Children ?? []).Select(part => Resolved(root, part)).OfType<YamlMappingNode>();

    // References within the file alone: nothing is fetched.
    private static YamlMappingNode? Resolved(YamlMappingNode root, YamlNode? node)
    {
        for (var hop = 0; hop < 8 && node is YamlMappingNode mapping; hop++)
        {
            if (Text(mapping, "$ref") is not { } reference)
                return mapping;
            if (!reference.StartsWith("#/", StringComparison.Ordinal))
                return null;
            node = reference[2..].Split('/').Aggregate((YamlNode?)root, (at, name) => at is YamlMappingNode inner ? Child(inner, name.Replace("~1", "/", StringComparison.Ordinal).Replace("~0", "~", StringComparison.Ordinal)) : null);
        }

        return null;
    }

    private static YamlNode? Child(YamlMappingNode node, string name) => node.Children.TryGetValue(new YamlScalarNode(name), out var child) ? child : null;

    private static string? Text(YamlMappingNode node, string name) => (Child(node, name) as YamlScalarNode)?.Value;

    private static string Cut(string words) => OneLine.Of(words.Length > LongestWords ? words[..LongestWords] + "…" : words);

    private static RefusedException Refuse(string what, string next, Exception? error = null) => new(new Refusal(Outcome.WrongCommandLine, what) { NextStep = next }, error);
}

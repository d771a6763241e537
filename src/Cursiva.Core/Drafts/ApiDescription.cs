using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Microsoft.OpenApi;
using Microsoft.OpenApi.Reader;

namespace Cursiva.Core.Drafts;

/// <summary>What a draft needs of an OpenAPI 3 description (JSON or YAML): the server, and the operations that read listings.</summary>
/// <param name="Server">The address of its first server; empty for none.</param>
/// <param name="Operations">Its GET operations whose answers are arrays, or have one, in the order of their paths.</param>
public sealed record ApiDescription(string Server, IReadOnlyList<ApiOperation> Operations)
{
    private const int LongestWords = 80;
    private const int MostShown = 6;
    private const int Deepest = 4;

    /// <summary>Reads a description. References within it are followed, and nothing is fetched.</summary>
    /// <exception cref="RefusedException">The file cannot be read, or is not an OpenAPI 3 description.</exception>
    public static ApiDescription Read(string path)
    {
        try
        {
            var settings = new OpenApiReaderSettings { LoadExternalRefs = false };
            settings.AddYamlReader();
            using var file = new MemoryStream(File.ReadAllBytes(path));
            var (document, facts) = OpenApiDocument.Load(file, settings: settings);
            if (document is null || facts?.SpecificationVersion is null or OpenApiSpecVersion.OpenApi2_0)
                throw NoDescription(path, facts?.Errors.FirstOrDefault()?.Message);
            return new ApiDescription(
                document.Servers?.FirstOrDefault()?.Url ?? "",
                [.. Listings(document).OrderBy(operation => operation.Path, StringComparer.Ordinal)]);
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw Refuse($"the description {path} cannot be read: {error.Message}", "name a file that exists and that you may read", error);
        }
        catch (Exception error) when (error is not RefusedException)
        {
            // Whatever its readers throw: the file is none that they understand.
            throw NoDescription(path, error.Message.Split('\n')[0], error);
        }
    }

    /// <summary>An operation by its id or path.</summary>
    /// <exception cref="RefusedException">There is none, or its path or server cannot be asked as they are.</exception>
    public ApiOperation Find(string name)
    {
        var found = Operations.FirstOrDefault(operation => operation.Id == name) ?? Operations.FirstOrDefault(
            operation => operation.Path == name)
            ?? throw Refuse(
                $"the description has no listing '{OneLine.Of(name)}'",
                $"it has {string.Join(", ", Operations.OrderBy(operation => Nearest.Distance(operation.Id, name)).Take(MostShown).Select(operation => operation.Id.Length > 0 ? operation.Id : operation.Path))}");
        if (found.Path.Contains('{', StringComparison.Ordinal))
            throw Refuse(
                $"the path of '{name}', {found.Path}, needs a value",
                "draft from the address with a value in its place: cursiva draft https://...");
        if (AskedAddress.TryParse(found.Address(this)) is null)
            throw Refuse(
                $"the description names the server '{OneLine.Of(Server)}', which is not a complete address",
                $"draft from the address: cursiva draft https://HOST{found.Path}");
        return found;
    }

    /// <summary>The operation of an address; null where the description has none.</summary>
    public ApiOperation? At(AskedAddress address) =>
        Operations.FirstOrDefault(operation => address.Whole.AbsolutePath.EndsWith(operation.Path, StringComparison.Ordinal));

    private static IEnumerable<ApiOperation> Listings(OpenApiDocument document)
    {
        foreach (var (path, item) in document.Paths)
        {
            if (item.Operations?.GetValueOrDefault(HttpMethod.Get) is not { } get
                || SchemaOf(get) is not { } schema
                || !HasArray(schema, 0))
                continue;
            List<string> parameters = [.. (item.Parameters ?? [])
                .Concat(get.Parameters ?? [])
                .Where(parameter => parameter.In == ParameterLocation.Query)
                .Select(parameter => parameter.Name)
                .OfType<string>()
                .Distinct()];
            yield return new ApiOperation(
                get.OperationId ?? "",
                path,
                Cut(get.Summary ?? get.Description ?? ""),
                parameters,
                parameters.Exists(IsOfPages) || Members(schema, 0).Any(
                    name => PageNames.IsNext(PageMember.Plain(name)) || PageNames.IsTotal(PageMember.Plain(name))));
        }
    }

    private static bool IsOfPages(string parameter) => PageMember.Plain(parameter) is var plain
        && (PageNames.IsPage(plain)
            || PageNames.IsOffset(plain)
            || PageNames.IsCursor(plain)
            || PageNames.SizeParameters.Any(size => PageMember.Plain(size) == plain));

    private static IOpenApiSchema? SchemaOf(OpenApiOperation operation)
    {
        var answers = operation.Responses;
        var answer = answers?.GetValueOrDefault("200") ?? answers?.GetValueOrDefault("2XX") ?? answers?.GetValueOrDefault("default");
        return answer?.Content?.FirstOrDefault(type => type.Key.Contains("json", StringComparison.OrdinalIgnoreCase)).Value?.Schema;
    }

    private static bool HasArray(IOpenApiSchema schema, int depth) => depth < Deepest
        && (schema.Type?.HasFlag(JsonSchemaType.Array) == true
            || (schema.AllOf ?? []).Any(part => HasArray(part, depth + 1))
            || (schema.Properties ?? new Dictionary<string, IOpenApiSchema>()).Values.Any(property => HasArray(property, depth + 2)));

    private static IEnumerable<string> Members(IOpenApiSchema schema, int depth) => depth >= Deepest ? []
        : (schema.Properties?.Keys ?? []).Concat((schema.AllOf ?? []).SelectMany(part => Members(part, depth + 1)));

    private static string Cut(string words) => OneLine.Of(words.Length > LongestWords ? words[..LongestWords] + "…" : words);

    private static RefusedException NoDescription(string path, string? why, Exception? error = null) =>
        Refuse(
            $"{path} is not an OpenAPI 3 description{(string.IsNullOrEmpty(why) ? "" : $": {OneLine.Of(why)}")}",
            "use the file that has openapi: 3 at the top, as JSON or YAML",
            error);

    private static RefusedException Refuse(string what, string next, Exception? error = null) =>
        new(new Refusal(Outcome.WrongCommandLine, what) { NextStep = next }, error);
}

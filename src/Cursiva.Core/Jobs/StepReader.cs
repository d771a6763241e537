using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads a step of a write-back.</summary>
/// <param name="earlier">The steps before it, whose answers it may use.</param>
/// <param name="item">What an item is called in placeholders: row or file.</param>
/// <param name="exchange">What it may encrypt with: the identity that it is sent as, and all there are.</param>
internal sealed class StepReader(Reading reading, IReadOnlyList<WriteStep> earlier, string item, StepExchange exchange)
{
    private static readonly Key[] s_methods = [WriteKeys.Get, WriteKeys.Post, WriteKeys.Put, WriteKeys.Patch, WriteKeys.Delete];

    private readonly Scope _scope = new([item, .. earlier.Select(step => step.Name)], HasMark: false) { Escapes = true };

    public WriteStep Read(string name, SectionReader section)
    {
        Key[] given = [.. s_methods.Where(section.Has)];
        if (given.Length != 1)
            reading.Add(
                section.Place,
                given.Length == 0 ? $"{section.Title} sends nothing" : $"{section.Title} has both {given[0].Name}: and {given[1].Name}:",
                $"give one of {string.Join(", ", s_methods.Select(method => method.Name + ":"))}");
        var key = given.FirstOrDefault() ?? WriteKeys.Get;
        var method = Enum.Parse<StepMethod>(key.Name, ignoreCase: true);
        var path = section.RawText(key) ?? "";
        Check(section, method);
        var query = new RequestReader(reading, _scope).Values(section.RawTextsMap(PullKeys.Query));

        // {?title} in the path is where query: { title: } goes.
        new PathCheck(reading, name => _scope.Knows(name) || query.Any(pair => pair.Key == name)).Check(section, key, path);
        return new WriteStep(name, section.Place, method, path)
        {
            When = Condition(section),
            Query = query,
            Headers = new RequestReader(reading, _scope).Values(section.RawTextsMap(PullKeys.Headers)),
            Body = section.Node(WriteKeys.Body) is { } body ? new BodyReader(reading, section.File, _scope).Read(body) : null,
            BodyIsForm = section.Choice(PullKeys.BodyAs) == "form",
            Text = Template(section, WriteKeys.Text),
            Type = section.Text(WriteKeys.Type),
            Rows = section.Pointer(WriteKeys.Rows),
            Where = [.. Where(section)],
            Paging = new PagingReader(reading).Read(section),
            MayFindNothing = section.Choice(WriteKeys.Expect) == "at-most-one",
            IfMatch = Template(section, WriteKeys.IfMatch),
            SendsKey = section.Switch(WriteKeys.IdempotencyKey) == true,
            Schema = section.LocalFile(WriteKeys.Validate),
            Encryption = new PayloadReader(reading).Bodies(section, exchange.Identity, exchange.Identities),
            Signatures = new PayloadReader(reading).Signatures(section, ofPull: false),
            File = section.Choice(UploadKeys.File) is { } file ? Enum.Parse<FileBody>(file, ignoreCase: true) : FileBody.None,
            FormField = section.Text(UploadKeys.FormField) ?? "file",
            FormFields = new RequestReader(reading, _scope).Values(section.RawTextMap(UploadKeys.FormFields)),
            SendsDigest = section.Switch(UploadKeys.ContentDigest) == true,
            PieceSize = (section.Whole(UploadKeys.PieceSize) ?? 8192) * 1024L,
        };
    }

    private void Check(SectionReader section, StepMethod method)
    {
        foreach (var of in new[] { WriteKeys.Rows, WriteKeys.Where, WriteKeys.Expect, PullKeys.Paging }.Where(
            key => section.Has(key) && method != StepMethod.Get))
            reading.Add(section.At(of), $"{section.Title} is not a lookup", $"{of.Name}: is only for steps with get:");
        foreach (var of in new[] { WriteKeys.Body, WriteKeys.Text, WriteKeys.IfMatch, WriteKeys.IdempotencyKey, WriteKeys.Validate }.Where(
            key => section.Has(key) && method == StepMethod.Get))
            reading.Add(
                section.At(of), $"{section.Title} changes nothing", $"{of.Name}: is only for steps with post:, put:, patch: or delete:");
        if (section.Has(UploadKeys.File)
            && (section.Has(WriteKeys.Body) || section.Has(WriteKeys.Text) || method is StepMethod.Get or StepMethod.Delete))
            reading.Add(
                section.At(UploadKeys.File),
                $"{section.Title} {(method is StepMethod.Get or StepMethod.Delete ? "has no body" : "has two bodies")}",
                "file: is the body of a step with post:, put: or patch:");
        if (section.Has(WriteKeys.Where) && !section.Has(WriteKeys.Rows))
            reading.Add(section.At(WriteKeys.Where), $"{section.Title} has where: but no rows:", "add rows:");
        if (section.Has(PullKeys.Paging) && !section.Has(WriteKeys.Rows))
            reading.Add(section.At(PullKeys.Paging), $"{section.Title} has paging: but no rows:", "add rows:");
        if (section.Has(WriteKeys.Body) && section.Has(WriteKeys.Text))
            reading.Add(section.At(WriteKeys.Text), $"{section.Title} has two bodies", "give one of body: and text:");
        if (section.Has(WriteKeys.Validate) && !section.Has(WriteKeys.Body))
            reading.Add(section.At(WriteKeys.Validate), $"{section.Title} has no JSON to validate", "give it as body:");
    }

    private StepCondition? Condition(SectionReader section)
    {
        if (section.Text(WriteKeys.When) is not { } text)
            return null;
        var words = text.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var looks = earlier.Where(step => step.IsLook).ToList();
        if (words is not [.., "found" or "not-found"] or { Length: > 2 })
            reading.Add(
                section.At(WriteKeys.When),
                $"'{text}' is not the result of a lookup",
                "write found or not-found, with the name of the lookup step in front if there are several: board found");
        else if (looks.Count == 0)
            reading.Add(
                section.At(WriteKeys.When),
                $"{section.Title} depends on a lookup, but no step before it is one",
                "add a step with get: above it");
        else if (words.Length == 2 && !looks.Exists(look => look.Name == words[0]))
            reading.Add(
                section.At(WriteKeys.When),
                $"no lookup before it is named '{words[0]}'",
                Nearest.Hint(words[0], [.. looks.Select(look => look.Name)], "looks"));
        else
            return new StepCondition(words.Length == 2 ? words[0] : looks[^1].Name, words[^1] == "found");
        return null;
    }

    private IEnumerable<KeyValuePair<JsonPointer, Template>> Where(SectionReader section)
    {
        foreach (var (name, place, text) in section.RawTextMap(WriteKeys.Where))
        {
            if (section.Pointer(name, place, WriteKeys.Where) is { } at
                && reading.FillBut(text, place, _scope.Knows, _scope.Hints) is { } template)
                yield return new(at, template);
        }
    }

    private Template? Template(SectionReader section, Key key) =>
        section.RawText(key) is { } text ? reading.FillBut(text, section.At(key), _scope.Knows, _scope.Hints) : null;
}

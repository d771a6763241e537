namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of uploads.</summary>
public static class UploadKeys
{
    public static readonly Key File = new(
        "file",
        KeyKind.Choice,
        "how the step sends the file: as the body; as a field of a form (multipart/form-data, RFC 7578); or in pieces with Content-Range, which go on where a stopped one ended")
    {
        Choices = ["body", "form", "pieces"],
        Otherwise = "it does not send it",
    };
    public static readonly Key FormField = new("form-field", KeyKind.Text, "the field of the form that has the file")
    {
        Otherwise = "file",
        Example = "attachment",
    };
    public static readonly Key FormFields = new(
        "form-fields", KeyKind.TextMap, "further fields of the form, before the file; a value may be a secret source")
    {
        Example = "{ title: \"{file.name}\" }",
    };
    public static readonly Key ContentDigest = new(
        "content-digest", KeyKind.Switch, "whether a header Content-Digest (RFC 9530, SHA-256) goes along")
    {
        Otherwise = "false",
        Example = "true",
    };
    public static readonly Key PieceSize = new("piece-size", KeyKind.Number, "how large a piece is, in KiB, 1 to 1048576")
    {
        Least = 1,
        Most = 1_048_576,
        Otherwise = "8192",
        Example = "8192",
    };
    public static readonly Section StepSection = new(
        "step of an upload",
        "one request for each file; {file.name}, {file.bytes}, {file.type} and {file.sha256} may be used; a path that is an answer's value alone, such as \"{open.link}\", is an address as the API gives it, and gets no credentials where also-origins: says bare",
        [.. WriteKeys.StepSection.Keys, File, FormField, FormFields, ContentDigest, PieceSize]);
    public static readonly Key Steps = new("steps", KeyKind.Sections, "the requests for each file, in their order, by name")
    {
        Required = true,
        Inside = StepSection,
    };
    public static readonly Section Section = new(
        "upload",
        "an API that the files are uploaded to, each by the same steps",
        [PullKeys.Api, PullKeys.Identity, Steps, PullKeys.SkipWhen]);
}

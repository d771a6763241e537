namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of uploads.</summary>
public static class UploadKeys
{
    public static readonly Key File = new(
        "file",
        KeyKind.Choice,
        "how the step sends the file: as the body; as a form field (multipart/form-data, RFC 7578); or in pieces with Content-Range, resumed where a stopped upload ended")
    {
        Choices = ["body", "form", "pieces"],
        Otherwise = "the step does not send the file",
    };
    public static readonly Key FormField = new("form-field", KeyKind.Text, "the form field for the file")
    {
        Otherwise = "file",
        Example = "attachment",
    };
    public static readonly Key FormFields = new(
        "form-fields", KeyKind.TextMap, "additional form fields, before the file; a value can be a secret source")
    {
        Example = "{ title: \"{file.name}\" }",
    };
    public static readonly Key ContentDigest = new(
        "content-digest", KeyKind.Switch, "whether to send a Content-Digest header (RFC 9530, SHA-256)")
    {
        Otherwise = "false",
        Example = "true",
    };
    public static readonly Key PieceSize = new("piece-size", KeyKind.Number, "the size of a piece, in KiB, 1 to 1048576")
    {
        Least = 1,
        Most = 1_048_576,
        Otherwise = "8192",
        Example = "8192",
    };
    public static readonly Section StepSection = new(
        "step of an upload",
        "one request for each file; {file.name}, {file.bytes}, {file.type} and {file.sha256} can be used. A path that is nothing but a value from an answer, such as \"{open.link}\", is used as a complete address, and gets no credentials if also-origins: says bare",
        [.. WriteKeys.StepSection.Keys, File, FormField, FormFields, ContentDigest, PieceSize]);
    public static readonly Key Steps = new("steps", KeyKind.Sections, "the requests for each file, by name and in order")
    {
        Required = true,
        Inside = StepSection,
    };
    public static readonly Key SkipWhen = PullKeys.SkipWhen with { Meaning = "refusals that skip one file, which is then reported" };
    public static readonly Section Section = new(
        "upload",
        "an API to upload the files to, each with the same steps",
        [PullKeys.Api, PullKeys.Identity, Steps, SkipWhen]);
}

namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of <c>signatures:</c>.</summary>
public static class SignatureKeys
{
    // signing
    public static readonly Key RequestForm = new(
        "form",
        KeyKind.Choice,
        "the form of the signature: an HTTP message signature (RFC 9421), a detached JWS, the body as a JWS, or an HMAC over a text that the job composes")
    { Required = true, Choices = SignatureForms.OfRequests };
    public static readonly Key RequestAlgorithm = new("algorithm", KeyKind.Choice, "the signature algorithm")
    {
        Choices = [.. Ciphers.OfSignedTexts, .. Ciphers.OfSignedMessages],
        Otherwise = "the usual one for the key's type",
    };
    public static readonly Key RequestHeader = new("header", KeyKind.Text, "the header that carries a detached JWS or an HMAC")
    {
        Otherwise = "X-JWS-Signature; X-Signature for an HMAC",
        Example = "X-Desk-Signature",
    };
    public static readonly Key Covers = new(
        "covers",
        KeyKind.Texts,
        "the components that an HTTP message signature covers, or must cover in an answer")
    {
        Otherwise =
                "@method and @target-uri, plus content-digest and content-type if there is a body; in an answer, @status and content-digest",
        Example = "[\"@method\", \"@target-uri\", content-digest]",
    };
    public static readonly Key HmacText = new(
        "text",
        KeyKind.Text,
        $"the text that the HMAC is computed over, with {string.Join(", ", RequestSignature.TextNames.Select(name => "{" + name + "}"))}")
    {
        Example = "\"{method}\\n{path}\\n{unix-time}\\n{body-sha256-hex}\"",
    };
    public static readonly Key HmacBeside = new(
        "headers-beside",
        KeyKind.TextMap,
        "headers to send with it, with the same placeholders, such as the time and nonce that the text contains")
    {
        Example = "{ X-Desk-Time: \"{unix-time}\" }",
    };
    public static readonly Key Encoding = new("encoding", KeyKind.Choice, "the encoding of the HMAC")
    {
        Choices = ["base64", "hex"],
        Otherwise = "base64",
    };
    public static readonly Section RequestsSection = new("requests of signatures", "how requests are signed",
    [
        RequestForm,
        EncryptionKeys.KeyOf,
        EncryptionKeys.KeyId,
        EncryptionKeys.KeyPassword,
        RequestAlgorithm,
        RequestHeader,
        Covers,
        HmacText,
        HmacBeside,
        Encoding,
    ]);
    public static readonly Key Requests = new("requests", KeyKind.Section, "how requests are signed")
    {
        Otherwise = "not at all",
        Inside = RequestsSection,
    };

    // verifying
    public static readonly Key Form = new(
        "form",
        KeyKind.Choice,
        "the form of the signature: a JWS with its payload, a detached JWS, or an HTTP message signature (RFC 9421)")
    {
        Required = true,
        Choices = SignatureForms.OfAnswers,
    };
    public static readonly Key SignedAt = new("at", KeyKind.Pointer, "the place of the signed text")
    {
        Otherwise = "the whole answer, or the header",
        Example = "/confirmation",
    };
    public static readonly Key SignedHeader = new("header", KeyKind.Text, "the header with a detached signature")
    {
        Otherwise = "the signature is at at:",
        Example = "X-JWS-Signature",
    };
    public static readonly Key PayloadAt = new(
        "payload-at",
        KeyKind.Pointer,
        "the place of a detached signature's payload: a text, or JSON taken byte for byte")
    {
        Otherwise = "the whole answer",
        Example = "/document",
    };
    public static readonly Key Issuer = new(
        "issuer",
        KeyKind.Text,
        "the required issuer of the signer's certificate: its full name or its common name")
    {
        Otherwise = "any",
        Example = "Brackwater Customs Root",
    };
    public static readonly Key WhenUnverified = new(
        "when-unverified",
        KeyKind.Choice,
        "what to do when a signature does not verify: stop the run, or report it and keep the data as it came")
    {
        Choices = ["refuse", "report"],
        Otherwise = "refuse",
    };
    public static readonly Key JoinsAs = new("payload", KeyKind.Text, "the member of the row that takes the verified payload")
    {
        Otherwise = "the payload replaces the row",
        Example = "confirmed",
    };
    public static readonly Key By = new(
        "by",
        KeyKind.Text,
        "the member of each row that names the key that verified it: its kid, or the SHA-256 thumbprint of its certificate or key; null if it was not verified")
    { Example = "verified_by" };
    public static readonly Section AnswersSection = new("answers of signatures", "how answers are verified",
    [
        Form,
        EncryptionKeys.KeyOf,
        EncryptionKeys.KeyId,
        SignedAt,
        SignedHeader,
        PayloadAt,
        Issuer,
        Covers,
        WhenUnverified,
        By,
    ]);
    public static readonly Section RowsSection = new("rows of signatures", "how each row is verified",
    [
        Form,
        EncryptionKeys.KeyOf,
        EncryptionKeys.KeyId,
        SignedAt,
        PayloadAt,
        Issuer,
        WhenUnverified,
        JoinsAs,
        By,
    ]);
    public static readonly Key Answers = new("answers", KeyKind.Section, "how answers are verified")
    {
        Otherwise = "not at all",
        Inside = AnswersSection,
    };
    public static readonly Key Rows = new("rows", KeyKind.Section, "how each row of a pull is verified")
    {
        Otherwise = "not at all",
        Inside = RowsSection,
    };
    public static readonly Section SignaturesSection = new("signatures", "how requests are signed, and how answers and rows are verified",
    [
        Requests,
        Answers,
        Rows,
    ]);
    public static readonly Key Signatures = new("signatures", KeyKind.Section, "signs requests, and verifies answers and rows")
    {
        Inside = SignaturesSection,
    };
}

namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of encrypted and signed exchanges, and of schemas.</summary>
public static class PayloadKeys
{
    private const string Where = "a secret source (PEM, DER, certificate, PKCS #12, JWK or JWK set), or the https address of a JWK set";

    // keys
    public static readonly Key KeyOf = new("key", KeyKind.Text, "where the key is: " + Where) { Required = true, Example = "file:desk.crt" };
    public static readonly Key KeyId = new("key-id", KeyKind.Text, "which key to use if there are several; sent as kid") { Otherwise = "the only key", Example = "desk-2026" };
    public static readonly Key KeyPassword = new("key-password", KeyKind.SecretSource, "where the private key's password is") { Example = "kept:p12-password" };

    // the session key
    public static readonly Key Bytes = new("bytes", KeyKind.Number, "the length of the random key made for each sign-in") { Least = 16, Most = 64, Otherwise = "32", Example = "32" };
    public static readonly Key SendAt = new("send-at", KeyKind.Pointer, "the place of that random key in the sign-in's body") { Required = true, Example = "/app_key" };
    public static readonly Key SendAs = new("send-as", KeyKind.Choice, "whether to encrypt the key's bytes or their base64 text") { Choices = ["bytes", "base64"], Otherwise = "bytes" };
    public static readonly Key SessionAt = new("answer-at", KeyKind.Pointer, "the place of the session key in the answer; it is encrypted under the random key") { Otherwise = "the random key is the session key", Example = "/session_key" };
    public static readonly Key Wrapped = new("wrapped", KeyKind.Choice, "how the session key is encrypted: plain AES in base64, or JWE with dir or A256KW") { Choices = Ciphers.OfSessionKeys, Otherwise = Ciphers.Ecb };
    public static readonly Key SessionEndsAt = new("ends-at", KeyKind.Pointer, "the place of the session key's expiry in the answer: seconds from now, or a time") { Otherwise = "when the token expires", Example = "/session_ends" };
    public static readonly Section SessionSection = new("session-key", "the key that a sign-in agrees on for encrypting later requests", [Bytes, SendAt, SendAs, SessionAt, Wrapped, SessionEndsAt]);

    // of an identity
    public static readonly Key PublicAlgorithm = new("algorithm", KeyKind.Choice, "how to encrypt under the public key") { Choices = Ciphers.UnderPublicKeys, Otherwise = "RSA-OAEP-256" };
    public static readonly Key Members = new("members", KeyKind.Pointers, "the members to encrypt, each where it stands") { Otherwise = "the whole body", Example = "[/password, /app_key]" };
    public static readonly Key At = new("at", KeyKind.Pointer, "the member of the request that holds the encrypted body") { Otherwise = "the encrypted text is the whole body", Example = "/data" };
    public static readonly Key SignInContent = new("content", KeyKind.Choice, "encrypts as a JWE, with this content encryption") { Choices = Ciphers.OfContents, Otherwise = "plain RSA in base64, for short texts only" };
    public static readonly Key Base64First = new("base64-first", KeyKind.Switch, "whether to encode the text as base64 before encrypting it") { Otherwise = "false" };
    public static readonly Key SignInAnswerAt = new("answer-at", KeyKind.Pointer, "the place in the answer of a text encrypted under the random key, as wrapped: says; once opened, it replaces the answer. Empty if the whole answer is that text") { Otherwise = "the answer is not encrypted", Example = "/data" };
    public static readonly Key SessionKey = new("session-key", KeyKind.Section, "the session key that the sign-in agrees on") { Inside = SessionSection };
    public static readonly Section SignInSection = new("encryption of an identity", "how the sign-in request is encrypted, and which session key it agrees on", [KeyOf, KeyId, PublicAlgorithm, Members, At, SignInContent, Base64First, SignInAnswerAt, SessionKey]);
    public static readonly Key SignIn = new("encryption", KeyKind.Section, "how the sign-in request is encrypted, and which session key it agrees on") { Inside = SignInSection };

    // of an API or a pull
    public static readonly Key Cipher = new("cipher", KeyKind.Choice, "how bodies are encrypted; none exempts a pull or write of an API that encrypts the rest") { Required = true, Choices = Ciphers.OfBodies };
    public static readonly Key BodyKey = new("key", KeyKind.Text, "the key that encrypts bodies: session (the session key of the sign-in), or " + Where) { Otherwise = KeySource.Session, Example = "file:desk.crt" };
    public static readonly Key OpenWith = new("open-with", KeyKind.SecretSource, "the private key that opens answers") { Otherwise = "key:", Example = "file:brackwater.p12" };
    public static readonly Key BodyAlgorithm = new("algorithm", KeyKind.Choice, "how the content key of a message is encrypted") { Choices = Ciphers.OfContentKeys, Otherwise = "dir for a shared or session key, RSA-OAEP-256 for a public one" };
    public static readonly Key BodyContent = new("content", KeyKind.Choice, "how the content of a JWE is encrypted") { Choices = Ciphers.OfContents, Otherwise = "A256GCM" };
    public static readonly Key RequestAt = new("request-at", KeyKind.Pointer, "the member of the request that holds the encrypted body") { Otherwise = "the encrypted text is the whole body", Example = "/data" };
    public static readonly Key AnswerAt = new("answer-at", KeyKind.Pointer, "the place of the encrypted text in an answer") { Otherwise = "the whole answer is that text", Example = "/data" };
    public static readonly Key MessageKeyAt = new("key-at", KeyKind.Pointer, "the place in the envelope of a key for this one message, wrapped under key: (in answers, under open-with:)") { Otherwise = "key: encrypts every message", Example = "/key" };
    public static readonly Key ByLine = new("by-line", KeyKind.Switch, "whether each line of a streamed answer is encrypted separately") { Otherwise = "false: the whole answer is one encrypted text" };
    public static readonly Key RefusedWhen = new("refused-when", KeyKind.TextsMap, "answers that mean that the session key has expired, as JSON Pointers and their values; the job signs in again, once") { Otherwise = "only status 401", Example = "{ /error/code: [key_ended] }" };
    public static readonly Section BodySection = new("encryption of an api", "how to encrypt requests and decrypt answers", [Cipher, BodyKey, KeyId, OpenWith, KeyPassword, BodyAlgorithm, BodyContent, RequestAt, Members, AnswerAt, MessageKeyAt, Base64First, ByLine, RefusedWhen]);
    public static readonly Key Body = new("encryption", KeyKind.Section, "how to encrypt requests and decrypt answers; rows land in plain text") { Inside = BodySection };

    // signing
    public static readonly Key RequestForm = new("form", KeyKind.Choice, "the form of the signature: an HTTP message signature (RFC 9421), a detached JWS, the body as a JWS, or an HMAC over a text that the job composes") { Required = true, Choices = SignatureForms.OfRequests };
    public static readonly Key RequestAlgorithm = new("algorithm", KeyKind.Choice, "the signature algorithm") { Choices = [.. Ciphers.OfSignedTexts, .. Ciphers.OfSignedMessages], Otherwise = "the usual one for the key's type" };
    public static readonly Key RequestHeader = new("header", KeyKind.Text, "the header that carries a detached JWS or an HMAC") { Otherwise = "X-JWS-Signature; X-Signature for an HMAC", Example = "X-Desk-Signature" };
    public static readonly Key Covers = new("covers", KeyKind.Texts, "the components that an HTTP message signature covers, or must cover in an answer") { Otherwise = "@method and @target-uri, plus content-digest and content-type if there is a body; in an answer, @status and content-digest", Example = "[\"@method\", \"@target-uri\", content-digest]" };
    public static readonly Key HmacText = new("text", KeyKind.Text, $"the text that the HMAC is computed over, with {string.Join(", ", RequestSignature.TextNames.Select(name => "{" + name + "}"))}") { Example = "\"{method}\\n{path}\\n{unix-time}\\n{body-sha256-hex}\"" };
    public static readonly Key HmacBeside = new("headers-beside", KeyKind.TextMap, "headers to send with it, with the same placeholders, such as the time and nonce that the text contains") { Example = "{ X-Desk-Time: \"{unix-time}\" }" };
    public static readonly Key Encoding = new("encoding", KeyKind.Choice, "the encoding of the HMAC") { Choices = ["base64", "hex"], Otherwise = "base64" };
    public static readonly Section RequestsSection = new("requests of signatures", "how requests are signed", [RequestForm, KeyOf, KeyId, KeyPassword, RequestAlgorithm, RequestHeader, Covers, HmacText, HmacBeside, Encoding]);
    public static readonly Key Requests = new("requests", KeyKind.Section, "how requests are signed") { Otherwise = "not at all", Inside = RequestsSection };

    // verifying
    public static readonly Key Form = new("form", KeyKind.Choice, "the form of the signature: a JWS with its payload, a detached JWS, or an HTTP message signature (RFC 9421)") { Required = true, Choices = SignatureForms.OfAnswers };
    public static readonly Key SignedAt = new("at", KeyKind.Pointer, "the place of the signed text") { Otherwise = "the whole answer, or the header", Example = "/confirmation" };
    public static readonly Key SignedHeader = new("header", KeyKind.Text, "the header with a detached signature") { Otherwise = "the signature is at at:", Example = "X-JWS-Signature" };
    public static readonly Key PayloadAt = new("payload-at", KeyKind.Pointer, "the place of a detached signature's payload: a text, or JSON taken byte for byte") { Otherwise = "the whole answer", Example = "/document" };
    public static readonly Key Issuer = new("issuer", KeyKind.Text, "the required issuer of the signer's certificate: its full name or its common name") { Otherwise = "any", Example = "Brackwater Customs Root" };
    public static readonly Key WhenUnverified = new("when-unverified", KeyKind.Choice, "what to do when a signature does not verify: stop the run, or report it and keep the data as it came") { Choices = ["refuse", "report"], Otherwise = "refuse" };
    public static readonly Key JoinsAs = new("payload", KeyKind.Text, "the member of the row that takes the verified payload") { Otherwise = "the payload replaces the row", Example = "confirmed" };
    public static readonly Key By = new("by", KeyKind.Text, "the member of each row that names the key that verified it: its kid, or the SHA-256 thumbprint of its certificate or key; null if it was not verified") { Example = "verified_by" };
    public static readonly Section AnswersSection = new("answers of signatures", "how answers are verified", [Form, KeyOf, KeyId, SignedAt, SignedHeader, PayloadAt, Issuer, Covers, WhenUnverified, By]);
    public static readonly Section RowsSection = new("rows of signatures", "how each row is verified", [Form, KeyOf, KeyId, SignedAt, PayloadAt, Issuer, WhenUnverified, JoinsAs, By]);
    public static readonly Key Answers = new("answers", KeyKind.Section, "how answers are verified") { Otherwise = "not at all", Inside = AnswersSection };
    public static readonly Key Rows = new("rows", KeyKind.Section, "how each row of a pull is verified") { Otherwise = "not at all", Inside = RowsSection };
    public static readonly Section SignaturesSection = new("signatures", "how requests are signed, and how answers and rows are verified", [Requests, Answers, Rows]);
    public static readonly Key Signatures = new("signatures", KeyKind.Section, "signs requests, and verifies answers and rows") { Inside = SignaturesSection };

    // schemas
    public static readonly Key Validate = new("validate", KeyKind.Text, "a file with a JSON Schema (2020-12); a row that does not match it stops the run, and every mistake is listed with its place") { Otherwise = "rows are not validated", Example = "declaration.schema.json" };
    public static readonly Key ValidateBody = new("validate-body", KeyKind.Text, "a file with a JSON Schema (2020-12) for request bodies; a body that does not match it is not sent and stops the run, and every mistake is listed with its place")
    {
        Otherwise = "bodies are not validated",
        Example = "question.schema.json",
    };
}

namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of encrypted and signed exchanges, and of schemas.</summary>
public static class PayloadKeys
{
    private const string Where = "a secret source (PEM, DER, certificate, PKCS #12, JWK or JWK set), or the https address of a JWK set";

    // keys
    public static readonly Key KeyOf = new("key", KeyKind.Text, "where the key is: " + Where) { Required = true, Example = "file:desk.crt" };
    public static readonly Key KeyId = new("key-id", KeyKind.Text, "which key of several is meant; it is sent as kid") { Otherwise = "the only key", Example = "desk-2026" };
    public static readonly Key KeyPassword = new("key-password", KeyKind.SecretSource, "where the password of a private key is") { Example = "kept:p12-password" };

    // the session key
    public static readonly Key Bytes = new("bytes", KeyKind.Number, "the length of the random key that each sign-in makes") { Least = 16, Most = 64, Otherwise = "32", Example = "32" };
    public static readonly Key SendAt = new("send-at", KeyKind.Pointer, "where the body of the sign-in has that random key") { Required = true, Example = "/app_key" };
    public static readonly Key SendAs = new("send-as", KeyKind.Choice, "whether the key's bytes are encrypted, or their base64") { Choices = ["bytes", "base64"], Otherwise = "bytes" };
    public static readonly Key SessionAt = new("answer-at", KeyKind.Pointer, "where the answer has the session key, encrypted under the random key") { Otherwise = "the random key is the session key", Example = "/session_key" };
    public static readonly Key Wrapped = new("wrapped", KeyKind.Choice, "how it is encrypted there; plain AES in base64, or JWE with dir or A256KW") { Choices = Ciphers.OfSessionKeys, Otherwise = Ciphers.Ecb };
    public static readonly Key SessionEndsAt = new("ends-at", KeyKind.Pointer, "where the answer says when the session key ends: seconds from now, or a time") { Otherwise = "with the token", Example = "/session_ends" };
    public static readonly Section SessionSection = new("session-key", "the key that a sign-in agrees on, for the bodies of further requests", [Bytes, SendAt, SendAs, SessionAt, Wrapped, SessionEndsAt]);

    // of an identity
    public static readonly Key PublicAlgorithm = new("algorithm", KeyKind.Choice, "how the public key is used") { Choices = Ciphers.UnderPublicKeys, Otherwise = "RSA-OAEP-256" };
    public static readonly Key Members = new("members", KeyKind.Pointers, "the members that are encrypted, each in its place") { Otherwise = "the whole body", Example = "[/password, /app_key]" };
    public static readonly Key At = new("at", KeyKind.Pointer, "where what is sent has the encrypted body") { Otherwise = "the encrypted body is what is sent", Example = "/data" };
    public static readonly Key SignInContent = new("content", KeyKind.Choice, "makes a JWE, whose content is encrypted so") { Choices = Ciphers.OfContents, Otherwise = "plain RSA, in base64: for a few bytes" };
    public static readonly Key Base64First = new("base64-first", KeyKind.Switch, "whether what is encrypted is put into base64 before") { Otherwise = "false" };
    public static readonly Key SignInAnswerAt = new("answer-at", KeyKind.Pointer, "where the answer has a part that is encrypted under the random key, in the way of wrapped:; what it holds takes the answer's place. Empty for an answer that is such a text as a whole") { Otherwise = "the answer is plain", Example = "/data" };
    public static readonly Key SessionKey = new("session-key", KeyKind.Section, "the session key that the sign-in brings") { Inside = SessionSection };
    public static readonly Section SignInSection = new("encryption of an identity", "what of the sign-in is encrypted, and the session key that it brings", [KeyOf, KeyId, PublicAlgorithm, Members, At, SignInContent, Base64First, SignInAnswerAt, SessionKey]);
    public static readonly Key SignIn = new("encryption", KeyKind.Section, "what of the sign-in is encrypted, and the session key that it brings") { Inside = SignInSection };

    // of an API or a pull
    public static readonly Key Cipher = new("cipher", KeyKind.Choice, "how bodies are encrypted; none for the requests of a pull or write whose API encrypts the others") { Required = true, Choices = Ciphers.OfBodies };
    public static readonly Key BodyKey = new("key", KeyKind.Text, "what bodies are encrypted under: session, or " + Where) { Otherwise = KeySource.Session, Example = "file:desk.crt" };
    public static readonly Key OpenWith = new("open-with", KeyKind.SecretSource, "where the private key is that answers are opened with") { Otherwise = "key:", Example = "file:brackwater.p12" };
    public static readonly Key BodyAlgorithm = new("algorithm", KeyKind.Choice, "how the content key of a message is handed over") { Choices = Ciphers.OfContentKeys, Otherwise = "dir for a shared or session key, RSA-OAEP-256 for a public one" };
    public static readonly Key BodyContent = new("content", KeyKind.Choice, "how the content of a JWE is encrypted") { Choices = Ciphers.OfContents, Otherwise = "A256GCM" };
    public static readonly Key RequestAt = new("request-at", KeyKind.Pointer, "where what is sent has the encrypted body") { Otherwise = "the encrypted body is what is sent", Example = "/data" };
    public static readonly Key AnswerAt = new("answer-at", KeyKind.Pointer, "where an answer has the encrypted text") { Otherwise = "the answer is that text", Example = "/data" };
    public static readonly Key MessageKeyAt = new("key-at", KeyKind.Pointer, "where an envelope has the key of this one message, wrapped under key: (of an answer: under open-with:)") { Otherwise = "messages have no key of their own", Example = "/key" };
    public static readonly Key ByLine = new("by-line", KeyKind.Switch, "whether each line of a streamed answer is encrypted by itself") { Otherwise = "false: the answer as a whole" };
    public static readonly Key RefusedWhen = new("refused-when", KeyKind.TextsMap, "answers that say that the session key has ended: JSON Pointers and their values; the job signs in again, once") { Otherwise = "status 401 alone", Example = "{ /error/code: [key_ended] }" };
    public static readonly Section BodySection = new("encryption of an api", "how bodies are encrypted and answers opened", [Cipher, BodyKey, KeyId, OpenWith, KeyPassword, BodyAlgorithm, BodyContent, RequestAt, Members, AnswerAt, MessageKeyAt, Base64First, ByLine, RefusedWhen]);
    public static readonly Key Body = new("encryption", KeyKind.Section, "how bodies are encrypted and answers opened; rows land plain") { Inside = BodySection };

    // signing
    public static readonly Key RequestForm = new("form", KeyKind.Choice, "the form of the signature: of the HTTP message (RFC 9421), a detached JWS, the body as a JWS, or an HMAC over a text of the job's own") { Required = true, Choices = SignatureForms.OfRequests };
    public static readonly Key RequestAlgorithm = new("algorithm", KeyKind.Choice, "how it is signed") { Choices = [.. Ciphers.OfSignedTexts, .. Ciphers.OfSignedMessages], Otherwise = "the usual way of the key" };
    public static readonly Key RequestHeader = new("header", KeyKind.Text, "the header that carries a detached JWS or an HMAC") { Otherwise = "X-JWS-Signature; X-Signature for an HMAC", Example = "X-Desk-Signature" };
    public static readonly Key Covers = new("covers", KeyKind.Texts, "what a signature of the HTTP message covers (of an answer: must cover)") { Otherwise = "@method, @target-uri, and with a body content-digest and content-type; of an answer @status and content-digest", Example = "[\"@method\", \"@target-uri\", content-digest]" };
    public static readonly Key HmacText = new("text", KeyKind.Text, $"the text whose HMAC is sent, with {string.Join(", ", RequestSignature.TextNames.Select(name => "{" + name + "}"))}") { Example = "\"{method}\\n{path}\\n{unix-time}\\n{body-sha256-hex}\"" };
    public static readonly Key HmacBeside = new("headers-beside", KeyKind.TextMap, "further headers with the same placeholders, such as the time and the nonce that the text has") { Example = "{ X-Desk-Time: \"{unix-time}\" }" };
    public static readonly Key Encoding = new("encoding", KeyKind.Choice, "how the HMAC is written") { Choices = ["base64", "hex"], Otherwise = "base64" };
    public static readonly Section RequestsSection = new("requests of signatures", "how requests are signed", [RequestForm, KeyOf, KeyId, KeyPassword, RequestAlgorithm, RequestHeader, Covers, HmacText, HmacBeside, Encoding]);
    public static readonly Key Requests = new("requests", KeyKind.Section, "how requests are signed") { Otherwise = "they are not", Inside = RequestsSection };

    // verifying
    public static readonly Key Form = new("form", KeyKind.Choice, "the form of the signature: a JWS with its payload, a detached one, or of the HTTP message (RFC 9421)") { Required = true, Choices = SignatureForms.OfAnswers };
    public static readonly Key SignedAt = new("at", KeyKind.Pointer, "where the signed text is") { Otherwise = "the whole answer, or the header", Example = "/confirmation" };
    public static readonly Key SignedHeader = new("header", KeyKind.Text, "the header with a detached signature") { Otherwise = "it stands at at:", Example = "X-JWS-Signature" };
    public static readonly Key PayloadAt = new("payload-at", KeyKind.Pointer, "where the payload of a detached signature is: a text, or JSON as it is written there") { Otherwise = "the whole answer", Example = "/document" };
    public static readonly Key Issuer = new("issuer", KeyKind.Text, "the issuer that the signer's certificate must have: its whole name, or the common name in it") { Otherwise = "any", Example = "Brackwater Customs Root" };
    public static readonly Key WhenUnverified = new("when-unverified", KeyKind.Choice, "what becomes of what does not verify: the run stops, or it is told and kept as it came") { Choices = ["refuse", "tell"], Otherwise = "refuse" };
    public static readonly Key JoinsAs = new("payload", KeyKind.Text, "the member of the row that the verified payload becomes") { Otherwise = "the payload takes the row's place", Example = "confirmed" };
    public static readonly Key By = new("by", KeyKind.Text, "the member of each row that says which key verified it: its kid, or the SHA-256 thumbprint of its certificate or key; null where none did") { Example = "verified_by" };
    public static readonly Section AnswersSection = new("answers of signatures", "how answers are verified", [Form, KeyOf, KeyId, SignedAt, SignedHeader, PayloadAt, Issuer, Covers, WhenUnverified, By]);
    public static readonly Section RowsSection = new("rows of signatures", "how each row is verified", [Form, KeyOf, KeyId, SignedAt, PayloadAt, Issuer, WhenUnverified, JoinsAs, By]);
    public static readonly Key Answers = new("answers", KeyKind.Section, "how answers are verified") { Otherwise = "they are not", Inside = AnswersSection };
    public static readonly Key Rows = new("rows", KeyKind.Section, "how each row of a pull is verified") { Otherwise = "they are not", Inside = RowsSection };
    public static readonly Section SignaturesSection = new("signatures", "what of an exchange is signed", [Requests, Answers, Rows]);
    public static readonly Key Signatures = new("signatures", KeyKind.Section, "signs requests, and verifies answers and rows") { Inside = SignaturesSection };

    // schemas
    public static readonly Key Validate = new("validate", KeyKind.Text, "the file of the JSON Schema (2020-12) that each row must fit; a row that does not stops the run, with every mistake and its place") { Otherwise = "rows are not compared with a schema", Example = "declaration.schema.json" };
    public static readonly Key ValidateBody = new("validate-body", KeyKind.Text, "the file of the JSON Schema (2020-12) that the body of each request must fit before it is sent; one that does not stops the run, with every mistake and its place")
    {
        Otherwise = "bodies are not compared with a schema",
        Example = "question.schema.json",
    };
}

namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of <c>encryption:</c>, of an identity and of an API.</summary>
public static class EncryptionKeys
{
    private const string Where = "a secret source (PEM, DER, certificate, PKCS #12, JWK or JWK set), or the https address of a JWK set";

    // keys
    public static readonly Key KeyOf = new("key", KeyKind.Text, "where the key is: " + Where)
    {
        Required = true,
        Example = "file:desk.crt",
    };
    public static readonly Key KeyId = new("key-id", KeyKind.Text, "which key to use if there are several; sent as kid")
    {
        Otherwise = "the only key",
        Example = "desk-2026",
    };
    public static readonly Key KeyPassword = new("key-password", KeyKind.SecretSource, "where the private key's password is")
    {
        Example = "kept:p12-password",
    };

    // the session key
    public static readonly Key Bytes = new("bytes", KeyKind.Number, "the length of the random key made for each sign-in")
    {
        Least = 16,
        Most = 64,
        Otherwise = "32",
        Example = "32",
    };
    public static readonly Key SendAt = new("send-at", KeyKind.Pointer, "the place of that random key in the sign-in's body")
    {
        Required = true,
        Example = "/app_key",
    };
    public static readonly Key SendAs = new("send-as", KeyKind.Choice, "whether to encrypt the key's bytes or their base64 text")
    {
        Choices = ["bytes", "base64"],
        Otherwise = "bytes",
    };
    public static readonly Key SessionAt = new(
        "answer-at",
        KeyKind.Pointer,
        "the place of the session key in the answer; it is encrypted under the random key")
    {
        Otherwise = "the random key is the session key",
        Example = "/session_key",
    };
    public static readonly Key Wrapped = new(
        "wrapped",
        KeyKind.Choice,
        "how the session key is encrypted: plain AES in base64, or JWE with dir or A256KW")
    {
        Choices = Ciphers.OfSessionKeys,
        Otherwise = Ciphers.Ecb,
    };
    public static readonly Key SessionEndsAt = new(
        "ends-at",
        KeyKind.Pointer,
        "the place of the session key's expiry in the answer: seconds from now, or a time")
    {
        Otherwise = "when the token expires",
        Example = "/session_ends",
    };
    public static readonly Section SessionSection = new("session-key", "the key that a sign-in agrees on for encrypting later requests",
    [
        Bytes,
        SendAt,
        SendAs,
        SessionAt,
        Wrapped,
        SessionEndsAt,
    ]);

    // of an identity
    public static readonly Key PublicAlgorithm = new("algorithm", KeyKind.Choice, "how to encrypt under the public key")
    {
        Choices = Ciphers.UnderPublicKeys,
        Otherwise = "RSA-OAEP-256",
    };
    public static readonly Key Members = new("members", KeyKind.Pointers, "the members to encrypt, each where it stands")
    {
        Otherwise = "the whole body",
        Example = "[/password, /app_key]",
    };
    public static readonly Key At = new("at", KeyKind.Pointer, "the member of the request that holds the encrypted body")
    {
        Otherwise = "the encrypted text is the whole body",
        Example = "/data",
    };
    public static readonly Key SignInContent = new("content", KeyKind.Choice, "encrypts as a JWE, with this content encryption")
    {
        Choices = Ciphers.OfContents,
        Otherwise = "plain RSA in base64, for short texts only",
    };
    public static readonly Key Base64First = new(
        "base64-first", KeyKind.Switch, "whether to encode the text as base64 before encrypting it")
    { Otherwise = "false" };
    public static readonly Key SignInAnswerAt = new(
        "answer-at",
        KeyKind.Pointer,
        "the place in the answer of a text encrypted under the random key, as wrapped: says; once opened, it replaces the answer. Empty if the whole answer is that text")
    { Otherwise = "the answer is not encrypted", Example = "/data" };
    public static readonly Key SessionKey = new("session-key", KeyKind.Section, "the session key that the sign-in agrees on")
    {
        Inside = SessionSection,
    };
    public static readonly Section SignInSection = new(
        "encryption of an identity",
        "how the sign-in request is encrypted, and which session key it agrees on",
        [KeyOf, KeyId, PublicAlgorithm, Members, At, SignInContent, Base64First, SignInAnswerAt, SessionKey]);
    public static readonly Key SignIn = new(
        "encryption",
        KeyKind.Section,
        "how the sign-in request is encrypted, and which session key it agrees on")
    { Inside = SignInSection };

    // of an API or a pull
    public static readonly Key Cipher = new(
        "cipher",
        KeyKind.Choice,
        "how bodies are encrypted; none exempts a pull or write of an API that encrypts the rest")
    {
        Required = true,
        Choices = Ciphers.OfBodies,
    };
    public static readonly Key BodyKey = new(
        "key",
        KeyKind.Text,
        "the key that encrypts bodies: session (the session key of the sign-in), or " + Where)
    {
        Otherwise = KeySource.Session,
        Example = "file:desk.crt",
    };
    public static readonly Key OpenWith = new("open-with", KeyKind.SecretSource, "the private key that opens answers")
    {
        Otherwise = "key:",
        Example = "file:brackwater.p12",
    };
    public static readonly Key BodyAlgorithm = new("algorithm", KeyKind.Choice, "how the content key of a message is encrypted")
    {
        Choices = Ciphers.OfContentKeys,
        Otherwise = "dir for a shared or session key, RSA-OAEP-256 for a public one",
    };
    public static readonly Key BodyContent = new("content", KeyKind.Choice, "how the content of a JWE is encrypted")
    {
        Choices = Ciphers.OfContents,
        Otherwise = "A256GCM",
    };
    public static readonly Key RequestAt = new("request-at", KeyKind.Pointer, "the member of the request that holds the encrypted body")
    {
        Otherwise = "the encrypted text is the whole body",
        Example = "/data",
    };
    public static readonly Key AnswerAt = new("answer-at", KeyKind.Pointer, "the place of the encrypted text in an answer")
    {
        Otherwise = "the whole answer is that text",
        Example = "/data",
    };
    public static readonly Key MessageKeyAt = new(
        "key-at",
        KeyKind.Pointer,
        "the place in the envelope of a key for this one message, wrapped under key: (in answers, under open-with:)")
    {
        Otherwise = "key: encrypts every message",
        Example = "/key",
    };
    public static readonly Key ByLine = new("by-line", KeyKind.Switch, "whether each line of a streamed answer is encrypted separately")
    {
        Otherwise = "false: the whole answer is one encrypted text",
    };
    public static readonly Key RefusedWhen = new(
        "refused-when",
        KeyKind.TextsMap,
        "answers that mean that the session key has expired, as JSON Pointers and their values; the job signs in again, once")
    {
        Otherwise = "only status 401",
        Example = "{ /error/code: [key_ended] }",
    };
    public static readonly Section BodySection = new("encryption of an api", "how to encrypt requests and decrypt answers",
    [
        Cipher,
        BodyKey,
        KeyId,
        OpenWith,
        KeyPassword,
        BodyAlgorithm,
        BodyContent,
        RequestAt,
        Members,
        AnswerAt,
        MessageKeyAt,
        Base64First,
        ByLine,
        RefusedWhen,
    ]);
    public static readonly Key Body = new(
        "encryption", KeyKind.Section, "how to encrypt requests and decrypt answers; rows land in plain text")
    { Inside = BodySection };
}

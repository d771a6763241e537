namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of an API: its limits and its probe.</summary>
public static class ApiKeys
{
    // probes
    public static readonly Key ProbeGet = new("get", KeyKind.Path, "the path, an RFC 6570 URI template appended to the API's base")
    {
        Required = true,
        Example = "/me",
    };
    public static readonly Key ProbeRequire = new(
        "require",
        KeyKind.TextMap,
        "values that the answer must have, as JSON Pointers and values; * for any value")
    {
        Otherwise = "any successful answer will do",
        Example = "{ /id: depot-export }",
    };
    public static readonly Section ProbeSection = new("probe", "one cheap request that shows whether the API accepts the identity",
    [
        ProbeGet,
        ProbeRequire,
    ]);

    // apis
    public static readonly Key AtMost = new(
        "at-most",
        KeyKind.Rates,
        "the most requests in a sliding window, for this client; one or more windows")
    { Example = "[100 per second, 36000 per hour]" };
    public static readonly Key Use = new("use", KeyKind.Share, "the share of the limits that this machine uses")
    {
        Otherwise = "100%",
        Example = "80%",
    };
    public static readonly Key AtOnce = new("at-once", KeyKind.Number, "the most requests at the same time, for this client")
    {
        Least = 1,
        Most = 1_000,
        Otherwise = "found by trial: it grows while requests succeed and halves when the API pushes back",
        Example = "8",
    };
    public static readonly Section LimitsSection = new("limits", "the API's limits", [AtMost, AtOnce, Use]);
    public static readonly Key Base = new(
        "base",
        KeyKind.Text,
        "the address that every path is appended to; https, or http on the loopback address. `{token/POINTER}` is filled in from the token endpoint's answer: in the path, or as the whole beginning of the address if base-within: lists the allowed origins")
    { Required = true, Example = "https://api.brackwater.example/v2" };
    public static readonly Key BaseWithin = new(
        "base-within",
        KeyKind.Texts,
        "the origins allowed when base: comes from the token endpoint's answer; a * as the host's first label stands for exactly one label")
    { Otherwise = "base: must begin with its origin", Example = "[\"https://*.exchange.brackwater.example\"]" };
    public static readonly Key ApiIdentity = new("identity", KeyKind.Text, "the identity that signs in")
    {
        Otherwise = "requests are anonymous",
        Example = "reporting-app",
    };
    public static readonly Key Headers = new("headers", KeyKind.TextMap, "headers of every request; a value can be a secret source")
    {
        Example = "{ Accept-Language: en }",
    };
    public static readonly Key QueryParameters = new(
        "query",
        KeyKind.TextMap,
        "query parameters of every request; a value can be a secret source, and is then removed from every address that is shown or stored")
    { Example = "{ locale: en }" };
    public static readonly Key Limits = new(
        "limits",
        KeyKind.Section,
        "the API's limits, which hold across strands, runs and processes of this machine")
    {
        Otherwise = "no limit is enforced",
        Inside = LimitsSection,
    };
    public static readonly Key Attempts = new(
        "attempts",
        KeyKind.Number,
        "how many times to try a request before the run fails, 1 to 100")
    { Least = 1, Most = 100, Otherwise = "6", Example = "6" };
    public static readonly Key Timeout = new(
        "timeout",
        KeyKind.Duration,
        "the longest wait for a complete answer, or for the first byte of a stream")
    { Otherwise = "100s", Example = "100s" };
    public static readonly Key ConnectTimeout = new("connect-timeout", KeyKind.Duration, "the longest wait for a connection")
    {
        Otherwise = "20s",
        Example = "20s",
    };
    public static readonly Key IdleTimeout = new("idle-timeout", KeyKind.Duration, "the longest wait for the next byte of an answer")
    {
        Otherwise = "60s",
        Example = "60s",
    };
    public static readonly Key HttpVersion = new(
        "http",
        KeyKind.Choice,
        "the HTTP version over TLS: 2 if the server offers it (ALPN), or always 1.1; without TLS it is 1.1")
    {
        Choices = ["1.1", "2"],
        Otherwise = "1.1",
        Example = "\"2\"",
    };
    public static readonly Key AlsoOrigins = new(
        "also-origins",
        KeyKind.TextMap,
        "other origins that links may lead to: signed-in sends credentials there; bare sends the plain request, without any header, parameter or certificate of the job; https, or http on the loopback address")
    { Otherwise = "a link that leaves the origin of base is refused", Example = "{ https://files.brackwater.example: bare }" };
    public static readonly Key LargestPage = new("largest-page", KeyKind.Number, "the largest answer to accept, in MiB, 1 to 1024")
    {
        Least = 1,
        Most = 1_024,
        Otherwise = "64",
        Example = "64",
    };
    public static readonly Key LargestFile = new(
        "largest-file",
        KeyKind.Number,
        "the largest download or export file to accept, in MiB, 1 to 1048576")
    {
        Least = 1,
        Most = 1_048_576,
        Otherwise = "16384",
        Example = "16384",
    };
    public static readonly Key LongestPause = new(
        "longest-pause",
        KeyKind.Duration,
        "the longest pause that the API may ask for (Retry-After, RateLimit-Reset); a longer one stops the run, and the next start resumes it")
    { Otherwise = "1h", Example = "1h" };
    public static readonly Key Probe = new(
        "probe",
        KeyKind.Section,
        "a request that check --live makes to see whether the API accepts the identity")
    { Inside = ProbeSection };
    public static readonly Key ApiZone = new("zone", KeyKind.Zone, "the time zone of times that the API sends without an offset")
    {
        Otherwise = "a column declared as time stays text if it has such times",
        Example = "Europe/Oslo",
    };
    public static readonly Section ApiSection = new("api", "one API",
    [
        Base,
        BaseWithin,
        ApiIdentity,
        Headers,
        QueryParameters,
        Limits,
        Attempts,
        Timeout,
        ConnectTimeout,
        IdleTimeout,
        HttpVersion,
        LargestPage,
        LargestFile,
        LongestPause,
        AlsoOrigins,
        Probe,
        ApiZone,
        IdentityKeys.Trust,
        EncryptionKeys.Body,
        SignatureKeys.Signatures,
    ]);
}

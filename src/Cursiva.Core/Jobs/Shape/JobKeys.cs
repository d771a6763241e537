namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>Every key of the job file.</summary>
public static class JobKeys
{
    // probes
    public static readonly Key ProbeGet = new("get", KeyKind.Path, "the path, an RFC 6570 URI template appended to the API's base") { Required = true, Example = "/me" };
    public static readonly Key ProbeRequire = new("require", KeyKind.TextMap, "what the answer must have: JSON Pointers and their values, * for anything") { Otherwise = "any answer with a status of success will do", Example = "{ /id: depot-export }" };
    public static readonly Section ProbeSection = new("probe", "one cheap request that shows whether the API lets the identity in", [ProbeGet, ProbeRequire]);

    // apis
    public static readonly Key AtMost = new("at-most", KeyKind.Rates, "the requests that the API allows this client, in sliding windows; one or several") { Example = "[100 per second, 36000 per hour]" };
    public static readonly Key Use = new("use", KeyKind.Share, "the share of the limits that this machine takes") { Otherwise = "100%", Example = "80%" };
    public static readonly Key AtOnce = new("at-once", KeyKind.Number, "the requests that the API allows this client at the same time") { Least = 1, Most = 1_000, Otherwise = "found out: one more while all goes well, half as many when the API pushes back", Example = "8" };
    public static readonly Section LimitsSection = new("limits", "what the API allows", [AtMost, AtOnce, Use]);
    public static readonly Key Base = new("base", KeyKind.Text, "the address that every path is appended to; https, or http on the loopback address. `{token/POINTER}` stands for a place of the token endpoint's answer, in the path of the address, or as its beginning with base-within:") { Required = true, Example = "https://api.brackwater.example/v2" };
    public static readonly Key BaseWithin = new("base-within", KeyKind.Texts, "the origins that base: may have where the token endpoint's answer says it: whole, or with * as the first label of the host, which stands for one label") { Otherwise = "base: begins with its origin", Example = "[\"https://*.exchange.brackwater.example\"]" };
    public static readonly Key ApiIdentity = new("identity", KeyKind.Text, "the identity that signs in") { Otherwise = "nobody signs in", Example = "reporting-app" };
    public static readonly Key Headers = new("headers", KeyKind.TextMap, "headers on every request; a value may be a secret source") { Example = "{ Accept-Language: en }" };
    public static readonly Key QueryParameters = new("query", KeyKind.TextMap, "query parameters on every request; a value may be a secret source, and then stands in no address that is shown or kept") { Example = "{ locale: en }" };
    public static readonly Key Limits = new("limits", KeyKind.Section, "the API's limits; kept across strands, runs and processes of this machine") { Otherwise = "no limit is kept", Inside = LimitsSection };
    public static readonly Key Attempts = new("attempts", KeyKind.Number, "times a request is tried before the run gives up, 1 to 100") { Least = 1, Most = 100, Otherwise = "6", Example = "6" };
    public static readonly Key Timeout = new("timeout", KeyKind.Duration, "the longest wait for one whole answer; for a stream, for its first byte") { Otherwise = "100s", Example = "100s" };
    public static readonly Key ConnectTimeout = new("connect-timeout", KeyKind.Duration, "the longest wait for a connection") { Otherwise = "20s", Example = "20s" };
    public static readonly Key IdleTimeout = new("idle-timeout", KeyKind.Duration, "the longest wait for the next byte of an answer") { Otherwise = "60s", Example = "60s" };
    public static readonly Key HttpVersion = new("http", KeyKind.Choice, "the version of HTTP over TLS: 2 where the server offers it (ALPN), or 1.1 always; without TLS it is 1.1") { Choices = ["1.1", "2"], Otherwise = "1.1", Example = "\"2\"" };
    public static readonly Key AlsoOrigins = new("also-origins", KeyKind.TextMap, "further origins that links may lead to, and whether credentials go there: signed-in, or bare for the request alone, with no header, parameter or certificate of the job; https, or http on the loopback address") { Otherwise = "a link that leaves the origin of base is refused", Example = "{ https://files.brackwater.example: bare }" };
    public static readonly Key LargestPage = new("largest-page", KeyKind.Number, "the largest answer that is accepted, in MiB, 1 to 1024") { Least = 1, Most = 1_024, Otherwise = "64", Example = "64" };
    public static readonly Key LargestFile = new("largest-file", KeyKind.Number, "the largest download, or part of an export, that is accepted, in MiB, 1 to 1048576") { Least = 1, Most = 1_048_576, Otherwise = "16384", Example = "16384" };
    public static readonly Key LongestPause = new("longest-pause", KeyKind.Duration, "the longest pause that the API may ask for (Retry-After, RateLimit-Reset); a longer one ends the run so that the next start resumes it") { Otherwise = "1h", Example = "1h" };
    public static readonly Key Probe = new("probe", KeyKind.Section, "the request by which check --live finds out whether the identity is let in") { Inside = ProbeSection };
    public static readonly Key ApiZone = new("zone", KeyKind.Zone, "the zone of the API's times that come without an offset") { Otherwise = "a column that is declared as time and has such times stays text", Example = "Europe/Oslo" };
    public static readonly Section ApiSection = new("api", "one API", [Base, BaseWithin, ApiIdentity, Headers, QueryParameters, Limits, Attempts, Timeout, ConnectTimeout, IdleTimeout, HttpVersion, LargestPage, LargestFile, LongestPause, AlsoOrigins, Probe, ApiZone, IdentityKeys.Trust, PayloadKeys.Body, PayloadKeys.Signatures]);

    // columns written out
    public static readonly Key At = new("at", KeyKind.Pointer, "where a row has the value") { Otherwise = "the field of the column's name", Example = "/address/postcode" };
    public static readonly Key Type = new("type", KeyKind.Choice, "the column's type") { Required = true, Choices = [.. Enum.GetNames<ColumnType>().Select(name => name.ToLowerInvariant())] };
    public static readonly Key ColumnZone = new("zone", KeyKind.Zone, "the zone of the column's times that come without an offset") { Otherwise = "zone of the API; without one, a column with such times stays text", Example = "Europe/Oslo" };
    public static readonly Section ColumnSection = new("column", "a declared column", [At, Type, ColumnZone]);

    // relative times
    public static readonly Key Ago = new("ago", KeyKind.Duration, "how long before the run's start") { Required = true, Example = "7d" };
    public static readonly Key Floor = new("start-of", KeyKind.Choice, "what the time is rounded down to") { Choices = [.. Enum.GetNames<TimeFloor>().Skip(1).Select(name => name.ToLowerInvariant())], Otherwise = "not rounded" };
    public static readonly Key TimeZone = new("zone", KeyKind.Zone, "the time zone in which start-of counts") { Otherwise = "the job's zone", Example = "Europe/Oslo" };
    public static readonly Section RelativeTimeSection = new("relative time", "a time told from the run's start", [Ago, Floor, TimeZone]);

    // the file
    public static readonly Key Cursiva = new("cursiva", KeyKind.Choice, "the version of the job file's format") { IsFixed = true, Required = true, Choices = ["1"] };
    public static readonly Key Schema = new("$schema", KeyKind.Text, "the JSON Schema that editors check the file by; not read") { Example = "job.schema.json" };
    public static readonly Key Name = new("name", KeyKind.Text, "what the history, the marks and the stopped runs of the job hang on, wherever its file lies") { Otherwise = "the file's name without .cursiva.yaml", Example = "weekly-depots" };
    public static readonly Key Title = new("title", KeyKind.Text, "what the job is, for people") { Otherwise = "the file's name", Example = "Weekly depot activity" };
    public static readonly Key Include = new("include", KeyKind.Texts, "files with identities, apis and inputs that several jobs share; paths from this file's folder") { Example = "[brackwater.shared.yaml]" };
    public static readonly Key Inputs = new("inputs", KeyKind.Inputs, "named values, filled in at {name}: a text, a number, true or false, or a relative time") { Example = "{ since: { ago: 7d, start-of: day } }" };
    public static readonly Key Zone = new("zone", KeyKind.Zone, "the job's time zone, for {run.date} and relative times") { IsFixed = true, Otherwise = "UTC", Example = "Europe/Oslo" };
    public static readonly Key Out = new("out", KeyKind.Text, "the folder of the reports, from the job file's folder; {run.date} and {run.number} may be used") { Otherwise = "reports", Example = "reports/{run.date}" };
    public static readonly Key ResumeWithin = new("resume-within", KeyKind.Duration, "how old a stopped run may be and still be resumed") { Otherwise = "6h", Example = "6h" };
    public static readonly Key Deadline = new("deadline", KeyKind.Duration, "how long one start may take; what is left is fetched by the next one (exit code 7)") { Otherwise = "any time; --deadline says otherwise for one start", Example = "2h" };
    public static readonly Key EnvFile = new("env-file", KeyKind.Text, "a file of NAME=value lines, from the job file's folder, for the variables that the environment does not have") { Example = ".env" };
    public static readonly Key Identities = new("identities", KeyKind.Sections, "who the job signs in as, by name") { Inside = IdentityKeys.Section };
    public static readonly Key Apis = new("apis", KeyKind.Sections, "the APIs, by name") { Inside = ApiSection };
    public static readonly Key Pulls = new("pulls", KeyKind.Sections, "what is fetched, by name; each becomes a table; a job that only tells of others, by a delivery with when: late, has none") { Inside = PullKeys.Section };
    public static readonly Key Queries = new("views", KeyKind.TextMap, "named SQL, by name, that reports and the queries below it use as a table; one SELECT each") { Example = "{ late: select * from consignments where status = 'late' }" };
    public static readonly Key Compare = new("compare", KeyKind.Sections, "pulls whose rows are compared with those of the last good run, by name") { Inside = ReportKeys.CompareSection };
    public static readonly Key Reports = new("reports", KeyKind.Sections, "what is written, by name") { Inside = ReportKeys.ReportSection };
    public static readonly Key Deliveries = new("deliveries", KeyKind.Sections, "where reports are taken once they are written, by name") { Inside = DeliveryKeys.Section };
    public static readonly Key Writes = new("writes", KeyKind.Sections, "requests that change something in an API, by name: one set of steps for each row of SQL, each once") { Inside = WriteKeys.Section };
    public static readonly Key Keep = new("retain", KeyKind.CountOrAge, "which landings stay on disk: a number of good runs, an age, or a size (MB, GB, TB); never less than incremental pulls need") { Otherwise = "3", Example = "30d" };
    public static readonly Key Memory = new("memory", KeyKind.Number, "the memory that SQL may take, in MiB, 64 to 1048576; beyond it the disk is used") { Least = 64, Most = 1_048_576, Otherwise = "1024", Example = "1024" };
    public static readonly Key Spill = new("spill", KeyKind.Number, "the disk that SQL may take where memory: does not do, in MiB, 64 to 1048576; a report that needs more fails") { Least = 64, Most = 1_048_576, Otherwise = "20480", Example = "20480" };
    public static readonly Key Skips = new("skips", KeyKind.Choice, "what becomes of a run in which strands were skipped: it is told; or it ends with code 6 once its reports are written; or it ends with code 6 and writes none") { Choices = ["tell", "exit-code", "fail"], Otherwise = "tell" };
    public static readonly Section JobSection = new("job", "one job file, NAME.cursiva.yaml", [Cursiva, Schema, Name, Title, Include, Inputs, Zone, Out, ResumeWithin, Deadline, EnvFile, Identities, Apis, Pulls, Queries, Compare, Reports, Writes, Deliveries, Keep, Memory, Spill, Skips, ScheduleKeys.Schedule, ScheduleKeys.Expected]) { OneOf = [Pulls, Deliveries] };
    public static readonly Section SharedSection = new("shared file", "a file that jobs include", [Schema, Inputs, Identities, Apis]);
}

namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>Every key of the job file.</summary>
public static class JobKeys
{
    // probes
    public static readonly Key ProbeGet = new("get", KeyKind.Path, "the path, an RFC 6570 URI template appended to the API's base") { Required = true, Example = "/me" };
    public static readonly Key ProbeRequire = new("require", KeyKind.TextMap, "values that the answer must have, as JSON Pointers and values; * for any value") { Otherwise = "any successful answer will do", Example = "{ /id: depot-export }" };
    public static readonly Section ProbeSection = new("probe", "one cheap request that shows whether the API accepts the identity", [ProbeGet, ProbeRequire]);

    // apis
    public static readonly Key AtMost = new("at-most", KeyKind.Rates, "the most requests in a sliding window, for this client; one or more windows") { Example = "[100 per second, 36000 per hour]" };
    public static readonly Key Use = new("use", KeyKind.Share, "the share of the limits that this machine uses") { Otherwise = "100%", Example = "80%" };
    public static readonly Key AtOnce = new("at-once", KeyKind.Number, "the most requests at the same time, for this client") { Least = 1, Most = 1_000, Otherwise = "found by trial: it grows while requests succeed and halves when the API pushes back", Example = "8" };
    public static readonly Section LimitsSection = new("limits", "the API's limits", [AtMost, AtOnce, Use]);
    public static readonly Key Base = new("base", KeyKind.Text, "the address that every path is appended to; https, or http on the loopback address. `{token/POINTER}` is filled in from the token endpoint's answer: in the path, or as the whole beginning of the address if base-within: lists the allowed origins") { Required = true, Example = "https://api.brackwater.example/v2" };
    public static readonly Key BaseWithin = new("base-within", KeyKind.Texts, "the origins allowed when base: comes from the token endpoint's answer; a * as the host's first label stands for exactly one label") { Otherwise = "base: must begin with its origin", Example = "[\"https://*.exchange.brackwater.example\"]" };
    public static readonly Key ApiIdentity = new("identity", KeyKind.Text, "the identity that signs in") { Otherwise = "requests are anonymous", Example = "reporting-app" };
    public static readonly Key Headers = new("headers", KeyKind.TextMap, "headers of every request; a value can be a secret source") { Example = "{ Accept-Language: en }" };
    public static readonly Key QueryParameters = new("query", KeyKind.TextMap, "query parameters of every request; a value can be a secret source, and is then removed from every address that is shown or stored") { Example = "{ locale: en }" };
    public static readonly Key Limits = new("limits", KeyKind.Section, "the API's limits, which hold across strands, runs and processes of this machine") { Otherwise = "no limit is enforced", Inside = LimitsSection };
    public static readonly Key Attempts = new("attempts", KeyKind.Number, "how many times to try a request before the run fails, 1 to 100") { Least = 1, Most = 100, Otherwise = "6", Example = "6" };
    public static readonly Key Timeout = new("timeout", KeyKind.Duration, "the longest wait for a complete answer, or for the first byte of a stream") { Otherwise = "100s", Example = "100s" };
    public static readonly Key ConnectTimeout = new("connect-timeout", KeyKind.Duration, "the longest wait for a connection") { Otherwise = "20s", Example = "20s" };
    public static readonly Key IdleTimeout = new("idle-timeout", KeyKind.Duration, "the longest wait for the next byte of an answer") { Otherwise = "60s", Example = "60s" };
    public static readonly Key HttpVersion = new("http", KeyKind.Choice, "the HTTP version over TLS: 2 if the server offers it (ALPN), or always 1.1; without TLS it is 1.1") { Choices = ["1.1", "2"], Otherwise = "1.1", Example = "\"2\"" };
    public static readonly Key AlsoOrigins = new("also-origins", KeyKind.TextMap, "other origins that links may lead to: signed-in sends credentials there; bare sends the plain request, without any header, parameter or certificate of the job; https, or http on the loopback address") { Otherwise = "a link that leaves the origin of base is refused", Example = "{ https://files.brackwater.example: bare }" };
    public static readonly Key LargestPage = new("largest-page", KeyKind.Number, "the largest answer to accept, in MiB, 1 to 1024") { Least = 1, Most = 1_024, Otherwise = "64", Example = "64" };
    public static readonly Key LargestFile = new("largest-file", KeyKind.Number, "the largest download or export file to accept, in MiB, 1 to 1048576") { Least = 1, Most = 1_048_576, Otherwise = "16384", Example = "16384" };
    public static readonly Key LongestPause = new("longest-pause", KeyKind.Duration, "the longest pause that the API may ask for (Retry-After, RateLimit-Reset); a longer one stops the run, and the next start resumes it") { Otherwise = "1h", Example = "1h" };
    public static readonly Key Probe = new("probe", KeyKind.Section, "a request that check --live makes to see whether the API accepts the identity") { Inside = ProbeSection };
    public static readonly Key ApiZone = new("zone", KeyKind.Zone, "the time zone of times that the API sends without an offset") { Otherwise = "a column declared as time stays text if it has such times", Example = "Europe/Oslo" };
    public static readonly Section ApiSection = new("api", "one API", [Base, BaseWithin, ApiIdentity, Headers, QueryParameters, Limits, Attempts, Timeout, ConnectTimeout, IdleTimeout, HttpVersion, LargestPage, LargestFile, LongestPause, AlsoOrigins, Probe, ApiZone, IdentityKeys.Trust, PayloadKeys.Body, PayloadKeys.Signatures]);

    // columns written out
    public static readonly Key At = new("at", KeyKind.Pointer, "the place of the value in a row") { Otherwise = "the field with the column's name", Example = "/address/postcode" };
    public static readonly Key Type = new("type", KeyKind.Choice, "the column's type") { Required = true, Choices = [.. Enum.GetNames<ColumnType>().Select(name => name.ToLowerInvariant())] };
    public static readonly Key ColumnZone = new("zone", KeyKind.Zone, "the time zone of the column's times that have no offset") { Otherwise = "the API's zone:; without either, a column with such times stays text", Example = "Europe/Oslo" };
    public static readonly Section ColumnSection = new("column", "a declared column", [At, Type, ColumnZone]);

    // relative times
    public static readonly Key Ago = new("ago", KeyKind.Duration, "how long before the run's start") { Required = true, Example = "7d" };
    public static readonly Key Floor = new("start-of", KeyKind.Choice, "the unit that the time is rounded down to") { Choices = [.. Enum.GetNames<TimeFloor>().Skip(1).Select(name => name.ToLowerInvariant())], Otherwise = "not rounded" };
    public static readonly Key TimeZone = new("zone", KeyKind.Zone, "the time zone for start-of") { Otherwise = "the job's zone", Example = "Europe/Oslo" };
    public static readonly Section RelativeTimeSection = new("relative time", "a time relative to the start of the run", [Ago, Floor, TimeZone]);

    // the file
    public static readonly Key Cursiva = new("cursiva", KeyKind.Choice, "the version of the job file's format") { IsFixed = true, Required = true, Choices = ["1"] };
    public static readonly Key Schema = new("$schema", KeyKind.Text, "the JSON Schema for editors; Cursiva ignores it") { Example = "job.schema.json" };
    public static readonly Key Name = new("name", KeyKind.Text, "the name that the job's history, marks and stopped runs are kept under; it stays the same if the file moves") { Otherwise = "the file's name without .cursiva.yaml", Example = "weekly-depots" };
    public static readonly Key Title = new("title", KeyKind.Text, "the job's title, for people") { Otherwise = "the file's name", Example = "Weekly depot activity" };
    public static readonly Key Include = new("include", KeyKind.Texts, "files with identities, apis and inputs that several jobs share; paths are relative to this file's folder") { Example = "[brackwater.shared.yaml]" };
    public static readonly Key Inputs = new("inputs", KeyKind.Inputs, "named values that replace {name}: a text, a number, true or false, or a relative time") { Example = "{ since: { ago: 7d, start-of: day } }" };
    public static readonly Key Zone = new("zone", KeyKind.Zone, "the job's time zone, for {run.date} and relative times") { IsFixed = true, Otherwise = "UTC", Example = "Europe/Oslo" };
    public static readonly Key Out = new("out", KeyKind.Text, "the folder for reports, relative to the job file's folder; {run.date} and {run.number} can be used") { Otherwise = "reports", Example = "reports/{run.date}" };
    public static readonly Key ResumeWithin = new("resume-within", KeyKind.Duration, "the oldest stopped run that is still resumed; after an older one, the job starts over") { Otherwise = "6h", Example = "6h" };
    public static readonly Key Deadline = new("deadline", KeyKind.Duration, "the longest one start may take; it then stops with exit code 7, and the next start resumes it") { Otherwise = "no deadline; --deadline sets one for a single start", Example = "2h" };
    public static readonly Key EnvFile = new("env-file", KeyKind.Text, "a file of NAME=value lines, relative to the job file's folder, for variables that are not set in the environment") { Example = ".env" };
    public static readonly Key Identities = new("identities", KeyKind.Sections, "the identities that the job signs in as, by name") { Inside = IdentityKeys.Section };
    public static readonly Key Apis = new("apis", KeyKind.Sections, "the APIs, by name") { Inside = ApiSection };
    public static readonly Key Pulls = new("pulls", KeyKind.Sections, "the listings to fetch, by name; each becomes a table. A job that only alerts about other jobs, with a delivery that has when: late, needs none") { Inside = PullKeys.Section };
    public static readonly Key Queries = new("views", KeyKind.TextMap, "SQL queries, by name, one SELECT each; reports and later views use them as tables") { Example = "{ late: select * from consignments where status = 'late' }" };
    public static readonly Key Compare = new("compare", KeyKind.Sections, "the pulls, by name, whose rows are compared with those of the last good run") { Inside = ReportKeys.CompareSection };
    public static readonly Key Reports = new("reports", KeyKind.Sections, "the reports to write, by name") { Inside = ReportKeys.ReportSection };
    public static readonly Key Deliveries = new("deliveries", KeyKind.Sections, "where to send reports once they are written, by name") { Inside = DeliveryKeys.Section };
    public static readonly Key Writes = new("writes", KeyKind.Sections, "write-backs, by name: requests that change something in an API, one set of steps for each row of SQL, each sent once") { Inside = WriteKeys.Section };
    public static readonly Key Keep = new("retain", KeyKind.CountOrAge, "how many landings to keep on disk: a number of good runs, an age, or a size (MB, GB, TB); what incremental pulls need is always kept") { Otherwise = "3", Example = "30d" };
    public static readonly Key Memory = new("memory", KeyKind.Number, "the most memory that SQL may use, in MiB, 64 to 1048576; beyond that it spills to disk") { Least = 64, Most = 1_048_576, Otherwise = "1024", Example = "1024" };
    public static readonly Key Spill = new("spill", KeyKind.Number, "the most disk that SQL may use when memory: is not enough, in MiB, 64 to 1048576; a report that needs more fails") { Least = 64, Most = 1_048_576, Otherwise = "20480", Example = "20480" };
    public static readonly Key Skips = new("skips", KeyKind.Choice, "what happens when strands were skipped: the run only reports it, ends with code 6 after writing its reports, or ends with code 6 without writing any") { Choices = ["report", "exit-code", "fail"], Otherwise = "report" };
    public static readonly Section JobSection = new("job", "one job file, NAME.cursiva.yaml", [Cursiva, Schema, Name, Title, Include, Inputs, Zone, Out, ResumeWithin, Deadline, EnvFile, Identities, Apis, Pulls, Queries, Compare, Reports, Writes, Deliveries, Keep, Memory, Spill, Skips, ScheduleKeys.Schedule, ScheduleKeys.Expected]) { OneOf = [Pulls, Deliveries] };
    public static readonly Section SharedSection = new("shared file", "a file that several jobs include", [Schema, Inputs, Identities, Apis]);
}

namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of a job and of files that jobs include.</summary>
public static class JobKeys
{
    // columns written out
    public static readonly Key At = new("at", KeyKind.Pointer, "the place of the value in a row")
    {
        Otherwise = "the field with the column's name",
        Example = "/address/postcode",
    };
    public static readonly Key Type = new("type", KeyKind.Choice, "the column's type")
    {
        Required = true,
        Choices = [.. Enum.GetNames<ColumnType>().Select(name => name.ToLowerInvariant())],
    };
    public static readonly Key ColumnZone = new("zone", KeyKind.Zone, "the time zone of the column's times that have no offset")
    {
        Otherwise = "the API's zone:; without either, a column with such times stays text",
        Example = "Europe/Oslo",
    };
    public static readonly Section ColumnSection = new("column", "a declared column", [At, Type, ColumnZone]);

    // relative times
    public static readonly Key Ago = new("ago", KeyKind.Duration, "how long before the run's start") { Required = true, Example = "7d" };
    public static readonly Key Floor = new("start-of", KeyKind.Choice, "the unit that the time is rounded down to")
    {
        Choices = [.. Enum.GetNames<TimeFloor>().Skip(1).Select(name => name.ToLowerInvariant())],
        Otherwise = "not rounded",
    };
    public static readonly Key TimeZone = new("zone", KeyKind.Zone, "the time zone for start-of")
    {
        Otherwise = "the job's zone",
        Example = "Europe/Oslo",
    };
    public static readonly Section RelativeTimeSection = new("relative time", "a time relative to the start of the run",
    [
        Ago,
        Floor,
        TimeZone,
    ]);

    // the file
    public static readonly Key Cursiva = new("cursiva", KeyKind.Choice, "the version of the job file's format")
    {
        IsFixed = true,
        Required = true,
        Choices = ["1"],
    };
    public static readonly Key Schema = new("$schema", KeyKind.Text, "the JSON Schema for editors; Cursiva ignores it")
    {
        Example = "job.schema.json",
    };
    public static readonly Key Name = new(
        "name",
        KeyKind.Text,
        "the name that the job's history, marks and stopped runs are kept under; it stays the same if the file moves")
    {
        Otherwise = "the file's name without .cursiva.yaml",
        Example = "weekly-depots",
    };
    public static readonly Key Title = new("title", KeyKind.Text, "the job's title, for people")
    {
        Otherwise = "the file's name",
        Example = "Weekly depot activity",
    };
    public static readonly Key Include = new(
        "include",
        KeyKind.Texts,
        "files with identities, apis and inputs that several jobs share; paths are relative to this file's folder")
    {
        Example = "[brackwater.shared.yaml]",
    };
    public static readonly Key Inputs = new(
        "inputs",
        KeyKind.Inputs,
        "named values that replace {name}: a text, a number, true or false, or a relative time")
    {
        Example = "{ since: { ago: 7d, start-of: day } }",
    };
    public static readonly Key Zone = new("zone", KeyKind.Zone, "the job's time zone, for {run.date} and relative times")
    {
        IsFixed = true,
        Otherwise = "UTC",
        Example = "Europe/Oslo",
    };
    public static readonly Key Out = new(
        "out",
        KeyKind.Text,
        "the folder for reports, relative to the job file's folder; {run.date} and {run.number} can be used")
    {
        Otherwise = "reports",
        Example = "reports/{run.date}",
    };
    public static readonly Key ResumeWithin = new(
        "resume-within",
        KeyKind.Duration,
        "the oldest stopped run that is still resumed; after an older one, the job starts over")
    { Otherwise = "6h", Example = "6h" };
    public static readonly Key Deadline = new(
        "deadline",
        KeyKind.Duration,
        "the longest one start may take; it then stops with exit code 7, and the next start resumes it")
    {
        Otherwise = "no deadline; --deadline sets one for a single start",
        Example = "2h",
    };
    public static readonly Key EnvFile = new(
        "env-file",
        KeyKind.Text,
        "a file of NAME=value lines, relative to the job file's folder, for variables that are not set in the environment")
    {
        Example = ".env",
    };
    public static readonly Key Identities = new("identities", KeyKind.Sections, "the identities that the job signs in as, by name")
    {
        Inside = IdentityKeys.Section,
    };
    public static readonly Key Apis = new("apis", KeyKind.Sections, "the APIs, by name") { Inside = ApiKeys.ApiSection };
    public static readonly Key Pulls = new(
        "pulls",
        KeyKind.Sections,
        "the listings to fetch, by name; each becomes a table. A job that only alerts about other jobs, with a delivery that has when: late, needs none")
    { Inside = PullKeys.Section };
    public static readonly Key Queries = new(
        "views",
        KeyKind.TextMap,
        "SQL queries, by name, one SELECT each; reports and later views use them as tables")
    {
        Example = "{ late: select * from consignments where status = 'late' }",
    };
    public static readonly Key Compare = new(
        "compare",
        KeyKind.Sections,
        "the pulls, by name, whose rows are compared with those of the last good run")
    { Inside = ReportKeys.CompareSection };
    public static readonly Key Reports = new("reports", KeyKind.Sections, "the reports to write, by name")
    {
        Inside = ReportKeys.ReportSection,
    };
    public static readonly Key Deliveries = new("deliveries", KeyKind.Sections, "where to send reports once they are written, by name")
    {
        Inside = DeliveryKeys.Section,
    };
    public static readonly Key Writes = new(
        "writes",
        KeyKind.Sections,
        "write-backs, by name: requests that change something in an API, one set of steps for each row of SQL, each sent once")
    {
        Inside = WriteKeys.Section,
    };
    public static readonly Key Keep = new(
        "retain",
        KeyKind.CountOrAge,
        "how many landings to keep on disk: a number of good runs, an age, or a size (MB, GB, TB); what incremental pulls need is always kept")
    { Otherwise = "3", Example = "30d" };
    public static readonly Key Memory = new(
        "memory",
        KeyKind.Number,
        "the most memory that SQL may use, in MiB, 64 to 1048576; beyond that it spills to disk")
    {
        Least = 64,
        Most = 1_048_576,
        Otherwise = "1024",
        Example = "1024",
    };
    public static readonly Key Spill = new(
        "spill",
        KeyKind.Number,
        "the most disk that SQL may use when memory: is not enough, in MiB, 64 to 1048576; a report that needs more fails")
    {
        Least = 64,
        Most = 1_048_576,
        Otherwise = "20480",
        Example = "20480",
    };
    public static readonly Key Skips = new(
        "skips",
        KeyKind.Choice,
        "what happens when strands were skipped: the run only reports it, ends with code 6 after writing its reports, or ends with code 6 without writing any")
    { Choices = ["report", "exit-code", "fail"], Otherwise = "report" };
    public static readonly Section JobSection = new("job", "one job file, NAME.cursiva.yaml",
    [
        Cursiva,
        Schema,
        Name,
        Title,
        Include,
        Inputs,
        Zone,
        Out,
        ResumeWithin,
        Deadline,
        EnvFile,
        Identities,
        Apis,
        Pulls,
        Queries,
        Compare,
        Reports,
        Writes,
        Deliveries,
        Keep,
        Memory,
        Spill,
        Skips,
        ScheduleKeys.Schedule,
        ScheduleKeys.Expected,
    ])
    { OneOf = [Pulls, Deliveries] };
    public static readonly Section SharedSection = new("shared file", "a file that several jobs include",
    [
        Schema,
        Inputs,
        Identities,
        Apis,
    ]);
}

using System.Text;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads a job file and what it includes, and reports every mistake at once.</summary>
public sealed class JobReader
{
    /// <summary>What the name of a job file ends with.</summary>
    public const string Suffix = ".cursiva.yaml";

    private readonly Reading _reading = new([]);
    private readonly DateTimeOffset _now;

    private JobReader(DateTimeOffset now) => _now = now;

    /// <summary>Reads a job.</summary>
    /// <param name="path">The job file.</param>
    /// <param name="given">Inputs from outside.</param>
    /// <param name="now">The start of the run, from which relative times are told.</param>
    /// <exception cref="JobMistakesException">The job has mistakes; all of them are in it.</exception>
    public static Job Read(string path, GivenInputs given, DateTimeOffset now)
    {
        var reader = new JobReader(now);
        return reader.ReadJob(reader.Open(path, path), path, given);
    }

    /// <summary>Reads a job that is not a file yet.</summary>
    /// <param name="text">What the file would have.</param>
    /// <param name="title">What messages call it.</param>
    /// <param name="folder">The folder that it would lie in.</param>
    /// <param name="given">Inputs from outside.</param>
    /// <param name="now">The start of the run, from which relative times are told.</param>
    /// <exception cref="JobMistakesException">The job has mistakes; all of them are in it.</exception>
    public static Job ReadText(string text, string title, string folder, GivenInputs given, DateTimeOffset now)
    {
        var reader = new JobReader(now);
        return reader.ReadJob(
            YamlFile.Of(title, Encoding.UTF8.GetBytes(text), reader._reading.Mistakes),
            Path.Combine(Path.GetFullPath(folder), "unnamed" + Suffix),
            given);
    }

    /// <summary>The name that a job file gives its job; null when it cannot be read.</summary>
    public static string? PeekName(string path)
    {
        var reading = new Reading([]);
        return YamlFile.Read(path, path, reading.Mistakes).Root is not { } root ? null
            : root.Children.TryGetValue(new YamlDotNet.RepresentationModel.YamlScalarNode(JobKeys.Name.Name), out var name)
                && name is YamlDotNet.RepresentationModel.YamlScalarNode { Value: { Length: > 0 } own }
                ? own
                : NameOf(path);
    }

    private Job ReadJob(YamlFile file, string path, GivenInputs given)
    {
        if (file.Root is null)
            throw new JobMistakesException(_reading.Mistakes);

        var top = new SectionReader(file, file.Root, JobKeys.JobSection, "the job", _reading);
        if (top.Text(JobKeys.Cursiva) is { } version && !JobKeys.Cursiva.Choices.Contains(version))
            _reading.Add(
                top.At(JobKeys.Cursiva),
                $"unsupported job-file version {version} (this Cursiva reads {JobKeys.Cursiva.Choices[^1]})",
                $"write cursiva: {JobKeys.Cursiva.Choices[^1]}, or install a newer Cursiva");
        var zone = top.Zone(JobKeys.Zone) ?? TimeZoneInfo.Utc;
        var folder = Path.GetDirectoryName(Path.GetFullPath(path))!;
        List<SectionReader> shared = [.. Included(top, folder)];

        var inputs = new InputReader(_reading, zone, _now);
        foreach (var section in shared)
            inputs.Declare(section, section.File.Name);
        inputs.Declare(top, Path.GetFileName(path));
        inputs.Override(given);

        List<SectionReader> sections = [.. shared, top];
        _reading.Strands = new StrandNames(
            PullReader.Heads(top, _reading).Concat(top.Has(JobKeys.Writes) ? [Write.Row] : Array.Empty<string>()).ToHashSet(
                StringComparer.Ordinal));
        var services = new ServiceReader(_reading);
        var identities = services.Identities(sections);
        var apis = services.Apis(sections, identities);
        _reading.Strands = new StrandNames(new HashSet<string>());
        var pulls = new PullReader(_reading, apis, identities).Pulls(top);
        services.Strands.TokenFields = TokenPlaces.Of(apis, pulls, _reading);
        identities = identities.ToDictionary(
            pair => pair.Key,
            pair => pair.Value with { TokenFields = services.Strands.TokenFields.GetValueOrDefault(pair.Key, []) },
            StringComparer.Ordinal);
        var queries = new QueryReader(_reading, pulls);
        var title = top.Text(JobKeys.Title) ?? NameOf(path);
        var reports = new ReportReader(_reading, title).Reports(top);
        var output = Output(top);
        var name = Name(top, path);
        var job = new Job(
            name,
            Path.GetFullPath(path),
            folder,
            title,
            zone,
            output,
            top.Duration(JobKeys.ResumeWithin) ?? Job.DefaultResumeWithin,
            [.. _reading.Inputs.Values.OrderBy(input => input.Name, StringComparer.Ordinal)],
            identities,
            apis,
            pulls,
            reports,
            Period(output, reports, zone))
        {
            PullPrints = new PullPrints(sections, top, _reading.Inputs).Of(pulls, apis),
            Queries = queries.Queries(top),
            Comparisons = queries.Comparisons(top),
            Deliveries = new DeliveryReader(_reading, reports, identities, apis).Deliveries(top),
            Writes = new WriteReader(_reading, apis, identities).Writes(top),
            Deadline = top.Duration(JobKeys.Deadline),
            Keep = KeepOf(top),
            Schedule = new ScheduleReader(_reading, zone).Read(top),
            Expected = new ScheduleReader(_reading, zone).Expected(top),
            NamedSources = [.. sections.SelectMany(section => section.File.Texts())
                .Select(SecretSource.TryParse)
                .OfType<SecretSource>()
                .Distinct()],
            Memory = (top.Whole(JobKeys.Memory) ?? 1024) * 1024L * 1024,
            Skips = top.Choice(JobKeys.Skips) switch { "fail" => SkipsEnd.Fail, "exit-code" => SkipsEnd.ExitCode, _ => SkipsEnd.Report },
            Spill = top.Whole(JobKeys.Spill) is { } spill ? spill * 1024L * 1024 : Job.DefaultSpill,
            Strands = services.Strands,
            EnvFile = top.Text(JobKeys.EnvFile) is { } variables ? Path.Combine(folder, variables) : null,
        };
        if (!top.Has(JobKeys.Pulls) && !job.Deliveries.Any(delivery => delivery.When == DeliveryTime.Late))
            _reading.Add(
                top.Place, $"the job has no '{JobKeys.Pulls.Name}'", "add pulls: the listings to fetch, by name; each becomes a table");
        return _reading.Mistakes.Count == 0
            ? job
            : throw new JobMistakesException(
                [.. _reading.Mistakes
                    .Distinct()
                    .OrderBy(mistake => mistake.Place.File != path)
                    .ThenBy(mistake => mistake.Place.Line)
                    .ThenBy(mistake => mistake.Place.Column)])
            { Job = job };
    }

    private YamlFile Open(string path, string name)
    {
        var file = YamlFile.Read(path, name, _reading.Mistakes);
        return file;
    }

    private IEnumerable<SectionReader> Included(SectionReader top, string folder)
    {
        foreach (var (text, place) in top.RawTexts(JobKeys.Include))
        {
            var path = Path.Combine(folder, text);
            if (!File.Exists(path))
                _reading.Add(place, $"there is no file '{text}' to include", $"write a path relative to {folder}");
            else if (Open(path, Path.GetRelativePath(Environment.CurrentDirectory, path)) is { Root: { } root } file)
                yield return new SectionReader(file, root, JobKeys.SharedSection, $"shared file '{text}'", _reading);
        }
    }

    private Template Output(SectionReader top)
    {
        var text = top.RawText(JobKeys.Out) ?? "reports";
        return _reading.FillBut(text, top.At(JobKeys.Out), Job.RunNames) ?? Template.TryParse("reports", out _)!;
    }

    private Keep KeepOf(SectionReader top)
    {
        if (top.Text(JobKeys.Keep) is not { } text)
            return Keep.Default;
        if (Keep.TryParse(text) is { } keep)
            return keep;
        _reading.Add(top.At(JobKeys.Keep), $"'{text}' does not say how many landings to keep", Keep.Right);
        return Keep.Default;
    }

    // The day belongs to what a run is about only where the job says so: a report for {run.date} must not be yesterday's.
    private string Period(Template output, IReadOnlyList<Report> reports, TimeZoneInfo zone)
    {
        var text = new StringBuilder();
        foreach (var input in _reading.Inputs.Values.Where(input => input.IsRelative && !input.Drifts).OrderBy(
            input => input.Name, StringComparer.Ordinal))
            text.Append($"{input.Name}={input.Value}\n");
        if (reports.SelectMany(report => report.Files.Select(file => file.Path)).Append(output).Any(
            template => template.Names.Contains("run.date")))
            text.Append($"day {TimeZoneInfo.ConvertTime(_now, zone):yyyy-MM-dd}");
        return text.ToString();
    }

    private string Name(SectionReader top, string path)
    {
        var name = top.Text(JobKeys.Name) ?? NameOf(path);
        if (CanName(name))
            return name;
        _reading.Add(
            top.Has(JobKeys.Name) ? top.At(JobKeys.Name) : top.Place,
            $"'{name}' cannot name a job",
            $"use {NameRule}, in name: or in the file's name");
        return "job";
    }

    /// <summary>What the name of a job may have.</summary>
    public const string NameRule = "up to 100 letters, digits, - _ and .";

    /// <summary>Whether a file's name, without its suffix, can name a job.</summary>
    public static bool CanName(string name) =>
        name.Length is > 0 and <= 100 && name.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_' or '.') && name[0] != '.';

    private static string NameOf(string path)
    {
        var name = Path.GetFileName(path);
        return name.EndsWith(Suffix, StringComparison.OrdinalIgnoreCase) ? name[..^Suffix.Length] : Path.GetFileNameWithoutExtension(name);
    }
}

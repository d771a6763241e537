using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Operations;

/// <summary>A folder of systemd units, of which only our own are touched.</summary>
/// <param name="path">The folder: <c>/etc/systemd/system</c>, or a user's own.</param>
public sealed class UnitFolder(string path, IDisk disk)
{
    /// <summary>Writes units, each whole.</summary>
    /// <returns>The paths of those that are others now than before.</returns>
    /// <exception cref="RefusedException">A file of that name is not ours.</exception>
    /// <exception cref="IOException">The folder cannot be written.</exception>
    public IReadOnlyList<string> Install(IReadOnlyList<UnitFile> units)
    {
        disk.CreateFolder(path);
        var before = units.ToDictionary(unit => unit, unit => Read(unit.Name));
        if (units.FirstOrDefault(unit => before[unit] is { } text && !IsOurs(text)) is { } foreign)
        {
            throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"{Path.Combine(path, foreign.Name)} is there, and was not made by cursiva schedule")
            {
                NextStep = "move it away, or give the job another name:",
            });
        }

        var changed = units.Where(unit => before[unit] != unit.Text).ToList();
        foreach (var unit in changed)
            WholeFile.Write(disk, Path.Combine(path, unit.Name), Encoding.UTF8.GetBytes(unit.Text), shared: true);
        return [.. changed.Select(unit => Path.Combine(path, unit.Name))];
    }

    /// <summary>Our units, by name.</summary>
    public IReadOnlyList<UnitFile> List() => !Directory.Exists(path) ? [] :
    [
        .. Directory.EnumerateFiles(path, "cursiva-*").Select(file => Path.GetFileName(file)).Where(name => name.EndsWith(".service", StringComparison.Ordinal) || name.EndsWith(".timer", StringComparison.Ordinal))
            .Order(StringComparer.Ordinal).Select(name => new UnitFile(name, Read(name) ?? "")).Where(unit => IsOurs(unit.Text)),
    ];

    /// <summary>Removes the units of a job.</summary>
    /// <param name="job">The job's name.</param>
    /// <returns>The paths that are gone.</returns>
    public IReadOnlyList<string> Remove(string job)
    {
        var name = SystemdUnits.NameOf(job);
        var units = List();

        // Those that keep a token alive have the name of the identity behind that of the job, which may be the beginning of another job's.
        var services = units.Where(unit => unit.Name == name + ".service").ToList();
        var paths = units.Where(unit => unit.Name == name + ".service" || unit.Name == name + ".timer" || IsTokenOf(unit.Name, name, units)).Select(unit => Path.Combine(path, unit.Name)).ToList();
        foreach (var file in services.Count == 0 ? [] : paths)
            File.Delete(file);
        return services.Count == 0 ? [] : paths;
    }

    private static bool IsTokenOf(string unit, string name, IReadOnlyList<UnitFile> units)
    {
        var bare = Path.GetFileNameWithoutExtension(unit);
        return bare.StartsWith(name + "-", StringComparison.Ordinal) && bare.EndsWith("-token", StringComparison.Ordinal)
            && !units.Any(other => other.Name.EndsWith(".service", StringComparison.Ordinal) && Path.GetFileNameWithoutExtension(other.Name) is var longer && longer.Length > name.Length && longer != bare && bare.StartsWith(longer + "-", StringComparison.Ordinal));
    }

    private static bool IsOurs(string text) => text.StartsWith(SystemdUnits.Mark, StringComparison.Ordinal);

    private string? Read(string name) => File.Exists(Path.Combine(path, name)) ? File.ReadAllText(Path.Combine(path, name)) : null;
}

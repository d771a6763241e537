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
            throw new RefusedException(new Refusal(
                Outcome.WrongCommandLine, $"{Path.Combine(path, foreign.Name)} exists and was not made by cursiva schedule")
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
        .. Directory.EnumerateFiles(path, "cursiva-*").Select(file => Path.GetFileName(file)).Where(
            name => name.EndsWith(".service", StringComparison.Ordinal) || name.EndsWith(".timer", StringComparison.Ordinal))
            .Order(StringComparer.Ordinal).Select(name => new UnitFile(name, Read(name) ?? "")).Where(unit => IsOurs(unit.Text)),
    ];

    /// <summary>Removes the units of a job.</summary>
    /// <param name="job">The job's name.</param>
    /// <returns>The paths that are gone.</returns>
    public IReadOnlyList<string> Remove(string job)
    {
        var paths = List()
            .Where(unit => unit.Text.StartsWith(SystemdUnits.HeadOf(job) + "\n", StringComparison.Ordinal))
            .Select(unit => Path.Combine(path, unit.Name))
            .ToList();
        paths.ForEach(File.Delete);
        return paths;
    }

    private static bool IsOurs(string text) => text.StartsWith(SystemdUnits.Mark, StringComparison.Ordinal);

    private string? Read(string name) => File.Exists(Path.Combine(path, name)) ? File.ReadAllText(Path.Combine(path, name)) : null;
}

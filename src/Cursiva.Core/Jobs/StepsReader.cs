using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads the steps of a write-back or an upload.</summary>
/// <param name="item">What an item is called in placeholders: row or file.</param>
/// <param name="exchange">What they may encrypt with.</param>
internal sealed class StepsReader(Reading reading, string item, StepExchange exchange)
{
    /// <param name="earlier">Steps above them, whose answers they may use.</param>
    public IReadOnlyList<WriteStep> Read(SectionReader section, Key key, IReadOnlyList<WriteStep> earlier)
    {
        var steps = new List<WriteStep>();
        foreach (var (name, place, node) in section.Children(key))
        {
            if (name.Length == 0
                || !name.All(c => char.IsAsciiLetterOrDigit(c) || c is '-' or '_')
                || name is Write.Row or UploadWay.File or "run"
                || steps.Concat(earlier).Any(step => step.Name == name))
                reading.Add(
                    place, $"'{name}' cannot name a step", "use letters, digits, - and _, each name once, and not row, file or run");
            steps.Add(
                new StepReader(reading, [.. earlier, .. steps], item, exchange).Read(
                    name, new SectionReader(section.File, node, key.Inside!, $"step '{name}' of {section.Title}", reading)));
        }

        // What finds nothing is an end unless some step says what to do then.
        return [.. steps.Select(
            step => step with
            {
                MayFindNothing = step.MayFindNothing || steps.Exists(later => later.When == new StepCondition(step.Name, Found: false)),
            })];
    }
}

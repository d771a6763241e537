namespace Cursiva.Core.Operations;

/// <summary>One value of a gauge.</summary>
/// <param name="Labels">What tells it from others.</param>
public sealed record GaugeSample(IReadOnlyList<KeyValuePair<string, string>> Labels, double Value)
{
    /// <summary>A value of a job, with further labels.</summary>
    public static GaugeSample Of(string job, double value, params ReadOnlySpan<(string Name, string Value)> labels)
    {
        List<KeyValuePair<string, string>> all = [new("job", job)];
        foreach (var (name, text) in labels)
            all.Add(new(name, text));
        return new GaugeSample(all, value);
    }
}

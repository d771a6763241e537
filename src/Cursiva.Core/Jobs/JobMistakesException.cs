namespace Cursiva.Core.Jobs;

/// <summary>A job that cannot be used, with all its mistakes at once.</summary>
public sealed class JobMistakesException(IReadOnlyList<Mistake> mistakes)
    : Exception(string.Join(Environment.NewLine, mistakes))
{
    public IReadOnlyList<Mistake> Mistakes { get; } = mistakes;
}

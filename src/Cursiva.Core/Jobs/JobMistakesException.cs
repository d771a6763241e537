namespace Cursiva.Core.Jobs;

/// <summary>A job that cannot be used, with all its mistakes at once.</summary>
public sealed class JobMistakesException(IReadOnlyList<Mistake> mistakes)
    : Exception(string.Join(Environment.NewLine, mistakes))
{
    /// <summary>All mistakes, in the order of the file.</summary>
    public IReadOnlyList<Mistake> Mistakes { get; } = mistakes;

    /// <summary>The job as far as it could be read, so that its SQL can be checked all the same; null when nothing was.</summary>
    public Job? Job { get; init; }
}

namespace Cursiva.Core.Pulls;

/// <summary>Is told how pulls go, by any thread.</summary>
public interface IPullWatch
{
    /// <summary>A pull began.</summary>
    void PullBegan(PullProgress pull);

    /// <summary>A pull ended, well or not.</summary>
    void PullEnded(PullProgress pull);

    /// <summary>A strand was skipped.</summary>
    /// <param name="strand">What tells it apart, for people.</param>
    void Skipped(PullProgress pull, string strand, string because);
}

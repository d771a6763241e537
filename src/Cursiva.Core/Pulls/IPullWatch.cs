namespace Cursiva.Core.Pulls;

/// <summary>Is told how pulls go, by any thread.</summary>
public interface IPullWatch
{
    void PullBegan(PullProgress pull);

    void PullEnded(PullProgress pull);

    /// <summary>A strand was skipped.</summary>
    /// <param name="strand">What tells it apart, for people.</param>
    void Skipped(PullProgress pull, string strand, string because);
}

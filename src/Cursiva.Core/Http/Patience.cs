namespace Cursiva.Core.Http;

/// <summary>How long a request waits, and how much it takes.</summary>
/// <param name="Whole">Longest wait for the whole answer; for the headers of a stream.</param>
/// <param name="Largest">Largest body that is accepted, in bytes, after it was unpacked.</param>
public sealed record Patience(TimeSpan Whole, long Largest)
{
    /// <summary>Longest wait for the next byte.</summary>
    public TimeSpan Idle { get; init; } = TimeSpan.FromSeconds(60);
}

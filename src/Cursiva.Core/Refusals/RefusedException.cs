namespace Cursiva.Core.Refusals;

/// <summary>Ends what is being done, with a refusal that a person can act on.</summary>
public sealed class RefusedException(Refusal refusal, Exception? inner = null) : Exception(refusal.What, inner)
{
    /// <summary>What was refused, why, and what to do next.</summary>
    public Refusal Refusal { get; } = refusal;
}

namespace Cursiva.Core.Http;

/// <summary>
/// What retries a client may spend: a stock that every good answer refills a little, so that an API that mostly fails is given up.
/// </summary>
public sealed class RetryBudget
{
    private const double Stock = 100;
    private const double Refill = 0.5;

    private readonly Lock _lock = new();
    private double _left = Stock;

    /// <summary>Spends one retry.</summary>
    /// <returns>Whether there was one left.</returns>
    public bool TrySpend()
    {
        lock (_lock)
        {
            if (_left < 1)
                return false;
            _left--;
            return true;
        }
    }

    /// <summary>A request succeeded, which earns a part of a retry.</summary>
    public void Succeeded()
    {
        lock (_lock)
            _left = Math.Min(Stock, _left + Refill);
    }
}

namespace Cursiva.Core.Jobs;

/// <summary>How a delivery leaves the machine.</summary>
public abstract record DeliveryWay
{
    private protected DeliveryWay()
    {
    }

    /// <summary>What somebody has for this way among all there are: a way that somebody forgets does not compile.</summary>
    public abstract T Of<T>(IDeliveryWays<T> ways);
}

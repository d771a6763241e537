namespace Cursiva.Core.Jobs;

/// <summary>How a delivery leaves the machine.</summary>
public abstract record DeliveryWay
{
    private protected DeliveryWay()
    {
    }
}

namespace Cursiva.Core.Jobs;

/// <summary>A JSON body is posted to an address, as chat and incident tools give them.</summary>
/// <param name="Address">Where the address is: whoever has it may post there, so it is a secret.</param>
/// <param name="Body">Names of the run are filled in.</param>
/// <param name="Largest">Bytes that the other side takes; null where nobody said.</param>
public sealed record MessageWay(SecretSource Address, DeclaredBody Body, int? Largest) : DeliveryWay
{
    /// <inheritdoc/>
    public override T Of<T>(IDeliveryWays<T> ways) => ways.Of(this);
}

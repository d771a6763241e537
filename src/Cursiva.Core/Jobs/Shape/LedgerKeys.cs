namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of whatever goes through the ledger.</summary>
public static class LedgerKeys
{
    public static readonly Key WhenInDoubt = new(
        "when-in-doubt",
        KeyKind.Choice,
        "what becomes of what may have left already, since the process or the connection ended meanwhile: it is held until somebody decides with cursiva ledger, or repeated")
    {
        Choices = ["hold", "repeat"],
        Otherwise = "hold",
    };
    public static readonly Key DeliverWithin = new(
        "deliver-within", KeyKind.Duration, "how long it is tried by later starts; then it is given up")
    {
        Otherwise = "1d",
        Example = "4h",
    };
}

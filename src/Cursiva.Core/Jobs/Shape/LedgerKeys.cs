namespace Cursiva.Core.Jobs.Shape;

#pragma warning disable CS1591 // Each key tells what it is in the text that the reference page and the schema show.
/// <summary>The keys of whatever goes through the ledger.</summary>
public static class LedgerKeys
{
    public static readonly Key WhenInDoubt = new(
        "when-in-doubt",
        KeyKind.Choice,
        "what to do with something that may have been sent when the process or connection ended: hold it until somebody decides with cursiva ledger, or repeat it")
    {
        Choices = ["hold", "repeat"],
        Otherwise = "hold",
    };
    public static readonly Key DeliverWithin = new(
        "deliver-within", KeyKind.Duration, "how long later starts keep trying before they give up")
    {
        Otherwise = "1d",
        Example = "4h",
    };
}

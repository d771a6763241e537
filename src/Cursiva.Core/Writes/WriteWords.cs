namespace Cursiva.Core.Writes;

/// <summary>What people are told of items.</summary>
public static class WriteWords
{
    /// <summary>A phase as people call it.</summary>
    public static string Of(ItemPhase phase) => phase switch
    {
        ItemPhase.Ready => "ready",
        ItemPhase.Sending or ItemPhase.InDoubt => "in doubt",
        ItemPhase.Sent => "sent",
        ItemPhase.Refused => "refused",
        ItemPhase.Skipped => "skipped",
        ItemPhase.Removed => "removed",
    };
}

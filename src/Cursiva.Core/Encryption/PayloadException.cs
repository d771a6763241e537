namespace Cursiva.Core.Encryption;

/// <summary>
/// Something that cannot be encrypted, opened, signed or verified. Why it did not open is never told apart: that would help whoever
/// guesses.
/// </summary>
public sealed class PayloadException(string what, Exception? inner = null) : Exception(what, inner)
{
    /// <summary>What is told of everything that does not open, whatever the reason.</summary>
    public const string DoesNotOpen = "it does not open with this key: it was encrypted for another one, or changed on the way";

    /// <summary>It does not open.</summary>
    public static PayloadException Closed(Exception? inner = null) => new(DoesNotOpen, inner);
}

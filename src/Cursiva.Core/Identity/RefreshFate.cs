namespace Cursiva.Core.Identity;

/// <summary>What became of a refresh token that was sent once.</summary>
/// <param name="Name">The name in the store that its successors are kept under.</param>
/// <param name="IsReplaced">Whether the server replaced it, so that it must not be sent again.</param>
internal sealed record RefreshFate(string Name, bool IsReplaced);

namespace Cursiva.Core.Identity;

/// <summary>The person at the other end of a sign-in.</summary>
public interface IPerson
{
    /// <summary>Shows the address to visit.</summary>
    /// <param name="redirect">Where the answer comes to, which the server must know as an address of the client.</param>
    void Visit(Uri address, Uri redirect);

    /// <summary>Shows a device code (RFC 8628 section 3.3).</summary>
    /// <param name="complete">The address with the code in it, when the server gives one.</param>
    void Enter(string code, Uri address, Uri? complete, TimeSpan within);

    /// <summary>What the person pastes: the whole redirected address, or the code.</summary>
    Task<string> PasteAsync(CancellationToken cancel);
}

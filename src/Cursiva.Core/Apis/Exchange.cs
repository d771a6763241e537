using Cursiva.Core.Http;
using Cursiva.Core.Identity;

namespace Cursiva.Core.Apis;

/// <summary>One request through all its attempts.</summary>
/// <param name="signedIn">Whether credentials and headers go along, and limits count.</param>
internal sealed class Exchange(ApiRequest wanted, bool signedIn)
{
    public ApiRequest Wanted => wanted;

    /// <summary>Whether credentials and headers go along, and limits count.</summary>
    public bool SignedIn => signedIn;

    public int Attempt { get; set; }

    public bool Renewed { get; set; }

    public AccessToken? Token { get; set; }

    /// <summary>When the last attempt was sent.</summary>
    public DateTimeOffset Sent { get; set; }

    /// <summary>Whether the last answer says that the session key has ended.</summary>
    public bool KeyRefused { get; set; }

    public Request Request { get; set; } = null!;
}

using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Identity;

/// <summary>
/// The device authorization grant (RFC 8628): a person signs in once (<see cref="PersonSignIn"/>), and runs live on the refresh token.
/// </summary>
internal static class DeviceCodeGrant
{
    /// <summary>How a job declares it.</summary>
    public static AskedGrant Declared { get; } = new()
    {
        Value = Grants.DeviceCode,
        SignsIn = true,
        Refreshes = true,
        Needs = () => [IdentityKeys.ClientId],
        Ask = RefreshGrant.Of,
    };
}

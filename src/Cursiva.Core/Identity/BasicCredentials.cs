using System.Text;

namespace Cursiva.Core.Identity;

/// <summary>Client id and secret as HTTP Basic credentials; both are form-encoded first (RFC 6749 section 2.3.1).</summary>
public static class BasicCredentials
{
    /// <summary>The value of the Authorization header (RFC 7617), id and secret form-encoded first (RFC 6749 section 2.3.1).</summary>
    public static string Write(string id, string secret) =>
        "Basic " + Convert.ToBase64String(Encoding.UTF8.GetBytes($"{FormEncode(id)}:{FormEncode(secret)}"));

    // application/x-www-form-urlencoded differs from percent-encoding in the space alone.
    private static string FormEncode(string text) => Uri.EscapeDataString(text).Replace("%20", "+");
}

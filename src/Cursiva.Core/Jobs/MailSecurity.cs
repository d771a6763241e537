namespace Cursiva.Core.Jobs;

/// <summary>How the way to a mail server is protected.</summary>
public enum MailSecurity
{
    /// <summary>TLS from the first byte (RFC 8314).</summary>
    Tls,

    /// <summary>TLS after STARTTLS (RFC 3207), without which nothing is sent.</summary>
    StartTls,

    /// <summary>Not at all; on this machine alone.</summary>
    None,
}

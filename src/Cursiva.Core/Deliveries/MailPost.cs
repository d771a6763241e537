using System.Globalization;
using MailKit;
using MailKit.Net.Smtp;
using MimeKit;

namespace Cursiva.Core.Deliveries;

/// <summary>A connection to a mail server that notes which recipients it does not take, and sends to the others.</summary>
internal sealed class MailPost(MailWire wire) : SmtpClient(wire)
{
    private readonly List<(string Address, SmtpStatusCode Status, string Said)> _refused = [];

    /// <summary>Who was not taken, and what the server said.</summary>
    public IReadOnlyList<(string Address, SmtpStatusCode Status, string Said)> Refused => _refused;

    /// <summary>Whether a later attempt may do better (RFC 5321 section 4.2.1).</summary>
    public static bool MayPass(SmtpStatusCode status) => (int)status < 500;

    /// <summary>What the server said of them, for people.</summary>
    public string Told =>
        string.Join(
            "; ",
            _refused.Select(
                refused => string.Create(CultureInfo.InvariantCulture, $"{refused.Address}: {(int)refused.Status} {refused.Said}")));

    protected override void OnRecipientNotAccepted(MimeMessage message, MailboxAddress mailbox, SmtpResponse response) =>
        _refused.Add((mailbox.Address, response.StatusCode, response.Response.ReplaceLineEndings(" ").Trim()));
}

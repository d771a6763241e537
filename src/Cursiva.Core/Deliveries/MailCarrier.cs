using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Secrets;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;

namespace Cursiva.Core.Deliveries;

/// <summary>Sends a mail by SMTP (RFC 5321). Nobody can be asked whether it arrived.</summary>
internal sealed class MailCarrier(MailWay way, SecretSources secrets, ITokens? tokens, Redactor redactor) : ICarrier
{
    private static readonly TimeSpan s_patience = TimeSpan.FromMinutes(2);

    /// <inheritdoc/>
    public async Task<SendResult> SendAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel)
    {
        var password = way.Password is { } source ? await secrets.ReadAsync(source, cancel) : null;
        var token = tokens is null ? null : await tokens.GetAsync(cancel);
        using var wire = new MailWire();
        using var client = new SmtpClient(wire) { Timeout = (int)s_patience.TotalMilliseconds };
        try
        {
            using var message = await MimeMessage.LoadAsync(files[0], cancel);
            await client.ConnectAsync(way.Host, way.Port, way.Security switch { MailSecurity.Tls => SecureSocketOptions.SslOnConnect, MailSecurity.StartTls => SecureSocketOptions.StartTls, MailSecurity.None => SecureSocketOptions.None }, cancel);
            if (client.MaxSize is > 0 and var most && new FileInfo(files[0]).Length > most)
                return new SendResult(LedgerPhase.Refused, $"the mail has {new FileInfo(files[0]).Length:N0} bytes, and {way.Host} takes {most:N0} at most (RFC 1870); attach less");
            if (password is not null)
                await client.AuthenticateAsync(way.User!, password.Reveal(), cancel);

            if (token is not null)
                await client.AuthenticateAsync(client.AuthenticationMechanisms.Contains("OAUTHBEARER") ? new SaslMechanismOAuthBearer(way.User!, token.Value.Reveal()) : new SaslMechanismOAuth2(way.User!, token.Value.Reveal()), cancel);

            // A mail that is on its way is finished, whoever stops the run (promise 15).
            var said = await client.SendAsync(message, CancellationToken.None);
            await client.DisconnectAsync(quit: true, CancellationToken.None);
            return new SendResult(LedgerPhase.Sent, redactor.Clean(said));
        }
        catch (SmtpCommandException error)
        {
            // RFC 5321 section 4.2.1: 4 may pass, 5 does not.
            return new SendResult((int)error.StatusCode < 500 ? LedgerPhase.Ready : LedgerPhase.Refused, redactor.Clean($"{way.Host} said {(int)error.StatusCode} {error.Message}{(error.Mailbox is { } whom ? $" ({whom.Address})" : "")}"));
        }
        catch (AuthenticationException error)
        {
            if (token is not null)
                tokens!.Refused(token);
            return new SendResult(LedgerPhase.Ready, redactor.Clean($"{way.Host} refused the sign-in of '{way.User}': {error.Message}"));
        }
        catch (Exception error) when (error is IOException or System.Net.Sockets.SocketException or SmtpProtocolException or SslHandshakeException or NotSupportedException or TimeoutException)
        {
            return wire.BodyHasLeft
                ? new SendResult(LedgerPhase.InDoubt, redactor.Clean($"the connection to {way.Host} broke after the mail had begun to leave: {error.Message}"))
                : new SendResult(LedgerPhase.Ready, redactor.Clean($"{way.Host}:{way.Port} cannot be reached: {error.Message.Split('\n')[0]}"));
        }
    }

    /// <inheritdoc/>
    public bool? HasArrived(LedgerEntry entry, IReadOnlyList<string> files) => null;
}

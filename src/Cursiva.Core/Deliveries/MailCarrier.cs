using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;

namespace Cursiva.Core.Deliveries;

/// <summary>Sends a mail by SMTP (RFC 5321). Nobody can be asked whether it arrived.</summary>
internal sealed class MailCarrier(string job, MailWay way, SignInServices services, ITokens? tokens) : ICarrier
{
    private static readonly TimeSpan s_patience = TimeSpan.FromMinutes(2);

    /// <inheritdoc/>
    public Task<Packed> PackAsync(Parcel parcel, Outbox outbox, CancellationToken cancel)
    {
        var to = parcel.To ?? way.To;
        if (to.FirstOrDefault(address => Confines.MailAddress(address) is not null) is { } wrong)
            return Task.FromResult(
                new Packed("nobody", [])
                {
                    Refused = $"the query of to: gives '{Secrets.OneLine.Of(wrong)}', which is not a mail address",
                });
        if (to.Count == 0)
            return Task.FromResult(
                new Packed("nobody", [])
                {
                    Refused =
                        $"the query of to: returns no recipient{(parcel.Files is [{ Value: { } value }, ..] ? $" for '{value}'" : "")}",
                });
        using var message = MailLetter.Compose(job, parcel, way, to);
        outbox.Put(parcel.Id, 0, stream => message.WriteTo(stream));
        outbox.Close(parcel.Id);
        return Task.FromResult(new Packed(string.Join(", ", to), ["message.eml"]) { Recipients = to });
    }

    /// <inheritdoc/>
    public async Task<SendResult> SendAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel)
    {
        var password = way.Password is { } source ? (await services.Secrets.ReadAsync(source, cancel)).Reveal() : null;
        var token = tokens is null ? null : await tokens.GetAsync(cancel);
        using var wire = new MailWire();
        using var post = new MailPost(wire)
        {
            Timeout = (int)s_patience.TotalMilliseconds,
            ServerCertificateValidationCallback = TrustedAuthorities.Check(
                way.Trust is { } trust ? Path.Combine(services.Folder, trust) : null),
            CheckCertificateRevocation = false,
        };
        try
        {
            using var message = await MimeMessage.LoadAsync(files[0], cancel);
            await post.ConnectAsync(
                way.Host,
                way.Port,
                way.Security switch
                {
                    MailSecurity.Tls => SecureSocketOptions.SslOnConnect,
                    MailSecurity.StartTls => SecureSocketOptions.StartTls,
                    MailSecurity.None => SecureSocketOptions.None,
                },
                cancel);
            if (post.MaxSize is > 0 and var most && new FileInfo(files[0]).Length > most)
                return new SendResult(
                    LedgerPhase.Refused,
                    $"the mail has {new FileInfo(files[0]).Length:N0} bytes, and {way.Host} accepts {most:N0} at most (RFC 1870); attach less");
            if (password is not null)
                await post.AuthenticateAsync(way.User!, password, cancel);
            if (token is not null)
                await post.AuthenticateAsync(
                    post.AuthenticationMechanisms.Contains("OAUTHBEARER")
                        ? new SaslMechanismOAuthBearer(way.User!, token.Value.Reveal())
                        : new SaslMechanismOAuth2(
                        way.User!, token.Value.Reveal()),
                    cancel);

            // A mail that is on its way is finished, whoever stops the run (promise 15).
            List<string> left = [.. entry.Recipients.Except(entry.Taken)];
            var said = await post.SendAsync(
                message, MailboxAddress.Parse(way.From), left.Select(MailboxAddress.Parse), CancellationToken.None);
            await post.DisconnectAsync(quit: true, CancellationToken.None);
            return Ended(entry, left, post, said);
        }
        catch (SmtpCommandException error)
        {
            return post.Refused.Count > 0
                ? Ended(entry, [], post, "")
                : new SendResult(
                    MailPost.MayPass(error.StatusCode) ? LedgerPhase.Ready : LedgerPhase.Refused,
                    Clean(
                        $"{way.Host} said {(int)error.StatusCode} {error.Message}{(error.Mailbox is { } whom ? $" ({whom.Address})" : "")}"));
        }
        catch (AuthenticationException error)
        {
            if (token is not null)
                tokens!.Refused(token);
            return new SendResult(LedgerPhase.Ready, Clean($"{way.Host} refused the sign-in of '{way.User}': {error.Message}"));
        }
        catch (Exception error) when (error is IOException or System.Net.Sockets.SocketException or SmtpProtocolException or SslHandshakeException or NotSupportedException or TimeoutException)
        {
            return wire.BodyHasLeft
                ? new SendResult(
                    LedgerPhase.InDoubt, Clean($"the connection to {way.Host} broke after the mail had begun to leave: {error.Message}"))
                : new SendResult(LedgerPhase.Ready, Clean($"{way.Host}:{way.Port} cannot be reached: {Cause(error)}"));
        }
    }

    /// <inheritdoc/>
    public Task<bool?> HasArrivedAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel) =>
        Task.FromResult<bool?>(null);

    // Who has it has it, whatever becomes of the others.
    private SendResult Ended(LedgerEntry entry, IReadOnlyList<string> asked, MailPost post, string said)
    {
        if (post.Refused.Count == 0)
            return new SendResult(LedgerPhase.Sent, Clean(said));
        List<string> taken =
        [
            .. entry.Taken,
            .. asked.Where(address => !post.Refused.Any(refused => refused.Address == MailboxAddress.Parse(address).Address)),
        ];
        var phase = post.Refused.Any(refused => MailPost.MayPass(refused.Status)) ? LedgerPhase.Ready : LedgerPhase.Refused;
        return new SendResult(
            phase,
            Clean($"{way.Host} does not accept {post.Told}{(taken.Count > 0 ? $"; {string.Join(", ", taken)} {(taken.Count == 1 ? "has" : "have")} it" : "")}"))
        {
            Taken = taken,
        };
    }

    private static string Cause(Exception error) =>
        (error is SslHandshakeException { InnerException: { } inner } ? inner : error).Message.Split('\n')[0].TrimEnd();

    private string Clean(string text) => services.Redactor.Clean(text);
}

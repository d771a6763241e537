using MailKit;

namespace Cursiva.Core.Deliveries;

/// <summary>Notes whether the body of a mail has begun to leave: from then on a lost answer leaves it in doubt.</summary>
internal sealed class MailWire : IProtocolLogger
{
    public bool BodyHasLeft { get; private set; }

    public IAuthenticationSecretDetector? AuthenticationSecretDetector { get; set; }

    public void LogConnect(Uri uri)
    {
        // Nothing has left yet.
    }

    // RFC 5321 section 4.1.1.4, RFC 3030 section 2: the commands that the body follows.
    public void LogClient(byte[] buffer, int offset, int count)
    {
        var line = buffer.AsSpan(offset, count);
        BodyHasLeft |= line.StartsWith("DATA\r\n"u8) || line.StartsWith("BDAT "u8) || line.IndexOf("\r\nDATA\r\n"u8) >= 0 || line.IndexOf(
            "\r\nBDAT "u8) >= 0;
    }

    public void LogServer(byte[] buffer, int offset, int count)
    {
        // What the server says is in the exceptions.
    }

    public void Dispose()
    {
        // It holds nothing.
    }
}

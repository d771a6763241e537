using System.Buffers.Binary;
using System.Net.Sockets;
using System.Text;
using System.Text.Json;

namespace Cursiva.Cli;

/// <summary>
/// Takes the lines of <c>--log json</c> and sends each to systemd's journal in its native protocol: the message, a priority (syslog's), and
/// every field as <c>CURSIVA_NAME</c>.
/// </summary>
internal sealed class JournalWriter(Socket journal) : TextWriter
{
    private const string UsualPath = "/run/systemd/journal/socket";
    private const string PathVariable = "CURSIVA_JOURNAL_SOCKET";

    // What is longer would have to go another way than a datagram.
    private const int Longest = 40_000;

    private static readonly UTF8Encoding s_plain = new(encoderShouldEmitUTF8Identifier: false);

    public override Encoding Encoding => s_plain;

    /// <summary>Whether what is written to stderr goes into the journal, as <c>JOURNAL_STREAM</c> says.</summary>
    public static bool HasStderr(Func<string, string?> environment)
    {
        if (environment("JOURNAL_STREAM")?.Split(':') is not [_, var inode])
            return false;
        try
        {
            return new FileInfo("/proc/self/fd/2").LinkTarget == $"socket:[{inode}]";
        }
        catch (IOException)
        {
            return false;
        }
    }

    /// <summary>
    /// Opens the journal; where it is not there, lines go to another writer, each with its priority before it (sd-daemon(3)).
    /// </summary>
    public static TextWriter Open(Func<string, string?> environment, TextWriter otherwise)
    {
        var socket = new Socket(AddressFamily.Unix, SocketType.Dgram, ProtocolType.Unspecified);
        try
        {
            socket.Connect(new UnixDomainSocketEndPoint(environment(PathVariable) is { Length: > 0 } path ? path : UsualPath));
            return new JournalWriter(socket);
        }
        catch (SocketException)
        {
            socket.Dispose();
            return new PriorityWriter(otherwise);
        }
    }

    public override void Write(char value) => Write(value.ToString());

    public override void Write(string? value)
    {
        foreach (var line in (value ?? "").Split('\n', StringSplitOptions.RemoveEmptyEntries))
        {
            try
            {
                journal.Send(Datagram(line));
            }
            catch (SocketException)
            {
                // The journal is being started again; the run goes on, and its record tells how it ended.
            }
        }
    }

    /// <summary>The priority of a level (RFC 5424 section 6.2.1).</summary>
    public static int PriorityOf(string? level) => level switch { "error" => 3, "warning" => 4, "debug" => 7, _ => 6 };

    protected override void Dispose(bool disposing)
    {
        if (disposing)
            journal.Dispose();
        base.Dispose(disposing);
    }

    private static byte[] Datagram(string line)
    {
        using var bytes = new MemoryStream();
        using var document = JsonDocument.Parse(line);
        var root = document.RootElement;
        Field(bytes, "SYSLOG_IDENTIFIER", "cursiva");
        Field(bytes, "PRIORITY", $"{PriorityOf(root.TryGetProperty("level", out var level) ? level.GetString() : null)}");
        foreach (var field in root.EnumerateObject().Where(field => field.Name is not ("time" or "level")))
        {
            var value = field.Value.ValueKind == JsonValueKind.String ? field.Value.GetString()! : field.Value.GetRawText();
            Field(
                bytes,
                field.Name == "message" ? "MESSAGE" : "CURSIVA_" + field.Name.ToUpperInvariant().Replace('-', '_'),
                value.Length > Longest ? value[..Longest] + "..." : value);
        }

        return bytes.ToArray();
    }

    // A value of several lines has its length before it.
    private static void Field(MemoryStream to, string name, string value)
    {
        var bytes = s_plain.GetBytes(value);
        to.Write(s_plain.GetBytes(name));
        if (value.Contains('\n', StringComparison.Ordinal))
        {
            to.WriteByte((byte)'\n');
            Span<byte> length = stackalloc byte[8];
            BinaryPrimitives.WriteInt64LittleEndian(length, bytes.Length);
            to.Write(length);
        }
        else
        {
            to.WriteByte((byte)'=');
        }

        to.Write(bytes);
        to.WriteByte((byte)'\n');
    }
}

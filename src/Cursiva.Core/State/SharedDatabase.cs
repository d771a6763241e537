using System.Globalization;
using System.Net;
using System.Security.Cryptography;
using System.Text;
using System.Text.RegularExpressions;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.State;

/// <summary>
/// The PostgreSQL database that several machines keep their state in, as a connection URI names it:
/// <c>postgresql://USER@HOST:PORT/DATABASE?password=env:NAME</c>. A socket's folder stands under <c>host</c>.
/// </summary>
/// <param name="Host">A name, an address, or the folder of a socket.</param>
/// <param name="Password">Where the password is, as it is written; null for none.</param>
public sealed partial record SharedDatabase(string Host, int Port, string Database, string User, string? Password)
{
    /// <summary>How such an address begins.</summary>
    public const string Scheme = "postgresql://";

    private const string Right = "write postgresql://USER@HOST/DATABASE?password=env:NAME";

    private static readonly string[] s_options = ["host", "password", "security", "trust", "lease", "landing", "folder", "connections"];

    /// <summary>Whether the connection is encrypted and the server's certificate and name are verified.</summary>
    public bool IsEncrypted { get; init; } = true;

    /// <summary>A PEM file with the certificate authorities that are trusted instead of the machine's; null for those.</summary>
    public string? Trust { get; init; }

    /// <summary>After this long without a word of a machine, another one may have what it held.</summary>
    public TimeSpan Lease { get; init; } = TimeSpan.FromSeconds(30);

    /// <summary>Whether rows stay on the machine that landed them, which then resumes its runs alone.</summary>
    public bool LandsHere { get; init; }

    /// <summary>Where this machine keeps what only it needs; null for the state folder of the environment.</summary>
    public string? Folder { get; init; }

    /// <summary>Most connections of one process at a time.</summary>
    public int Connections { get; init; } = 8;

    /// <summary>The database in words; never a password.</summary>
    public string Words => $"{Host}{(Host.StartsWith('/') || Port == 5432 ? "" : $":{Port}")}/{Database}";

    /// <summary>Tells the folders of several databases apart.</summary>
    public string Key => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes($"{Host}\n{Port}\n{Database}")))[..8];

    /// <summary>Reads an address.</summary>
    /// <exception cref="RefusedException">It is none, or has a password in it.</exception>
    public static SharedDatabase Parse(string text)
    {
        if (Address().Match(text) is not { Success: true } parts)
            throw Wrong("the address of the shared state is not understood", Right);
        if (parts.Groups["secret"].Success)
            throw Wrong(
                "the address of the shared state has a password in it",
                "say where it is instead: ?password=env:NAME, file:PATH or systemd:NAME");
        var options = Options(parts.Groups["query"].Value);
        var host = options.GetValueOrDefault("host") ?? Uri.UnescapeDataString(parts.Groups["host"].Value).Trim('[', ']');
        var user = Uri.UnescapeDataString(parts.Groups["user"].Value);
        var name = Uri.UnescapeDataString(parts.Groups["name"].Value);
        if (host.Length == 0 || user.Length == 0 || name.Length == 0)
            throw Wrong(
                $"the address of the shared state names no {(host.Length == 0 ? "host" : user.Length == 0 ? "user" : "database")}", Right);
        var port = parts.Groups["port"].Success ? Number("the port", parts.Groups["port"].Value, 65535) : 5432;
        return new SharedDatabase(host, port, name, user, options.GetValueOrDefault("password"))
        {
            IsEncrypted = IsTls(options.GetValueOrDefault("security"), host),
            Trust = options.GetValueOrDefault("trust") is { } trust ? Path.GetFullPath(trust) : null,
            Lease = options.GetValueOrDefault("lease") is { } lease ? LeaseOf(lease) : TimeSpan.FromSeconds(30),
            LandsHere = options.GetValueOrDefault("landing") switch
            {
                null => false,
                "local" => true,
                var other =>
                    throw Wrong(
                        $"landing is '{other}' in the address of the shared state",
                        "remove it, or write landing=local for rows that stay on the machine that landed them"),
            },
            Folder = options.GetValueOrDefault("folder") is { } folder ? Path.GetFullPath(folder) : null,
            Connections = options.GetValueOrDefault("connections") is { } most ? Number("connections", most, 100) : 8,
        };
    }

    private static Dictionary<string, string> Options(string query)
    {
        var options = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var pair in query.Split('&', StringSplitOptions.RemoveEmptyEntries).Select(pair => pair.Split('=', 2)))
        {
            if (pair.Length < 2 || !s_options.Contains(pair[0]))
                throw Wrong($"the address of the shared state has no option '{pair[0]}'", $"write one of {string.Join(", ", s_options)}");
            options[pair[0]] = Uri.UnescapeDataString(pair[1]);
        }

        return options;
    }

    // What goes over a socket of this machine leaves it nowhere.
    private static bool IsTls(string? written, string host) => written switch
    {
        null => !host.StartsWith('/'),
        "none" when host.StartsWith('/')
            || host == "localhost"
            || (IPAddress.TryParse(host, out var address) && IPAddress.IsLoopback(address)) => false,
        "none" =>
            throw Wrong(
                $"tokens and rows would cross the network to {host} in the clear",
                "remove security=none, and name the authority of the server's certificate with trust=FILE if the machine does not know it"),
        _ =>
            throw Wrong(
                $"security is '{written}' in the address of the shared state",
                "remove it, or write security=none for a server on this machine"),
    };

    private static TimeSpan LeaseOf(string text)
    {
        var digits = text.EndsWith('s') ? text[..^1] : text;
        return TimeSpan.FromSeconds(
            Number("lease", digits, 3600) is var seconds && seconds >= 2
                ? seconds
                : throw Wrong("lease is below 2 s", "write 2s to 3600s; the default is 30s"));
    }

    private static int Number(string what, string text, int most) =>
        int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) && number >= 1 && number <= most
            ? number
            : throw Wrong($"{what} is '{text}' in the address of the shared state", $"write 1 to {most}");

    private static RefusedException Wrong(string what, string next) => new(new Refusal(Outcome.WrongCommandLine, what) { NextStep = next });

    [GeneratedRegex(@"^postgresql://(?:(?<user>[^@:/?]*)(?<secret>:[^@/?]*)?@)?(?<host>\[[^\]]*\]|[^:/?]*)(?::(?<port>\d+))?/(?<name>[^?/]*)(?:\?(?<query>.*))?$", RegexOptions.CultureInvariant)]
    private static partial Regex Address();
}

using System.Globalization;
using System.Net;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads <c>HOST</c> or <c>HOST:PORT</c>.</summary>
internal static class ServerName
{
    /// <summary>The server that a key names; null when it names none.</summary>
    public static (string Host, int Port)? Read(SectionReader section, Key key, int usualPort)
    {
        if (section.Text(key) is not { } text)
            return null;
        if (Uri.TryCreate($"tcp://{text}", UriKind.Absolute, out var address)
            && address.AbsolutePath is "/" or ""
            && address.UserInfo.Length == 0
            && address.Host.Length > 0
            && address.Query.Length == 0)
            return (
                address.IdnHost,
                address.Port > 0 && text.EndsWith(":" + address.Port.ToString(CultureInfo.InvariantCulture), StringComparison.Ordinal)
                    ? address.Port
                    : usualPort);
        section.Reading.Add(section.At(key), $"'{text}' is not a server", $"write HOST or HOST:PORT: {key.Example}");
        return null;
    }

    /// <summary>Whether a server is this machine, which nothing has to cross a network for.</summary>
    public static bool IsHere(string host) =>
        host == "localhost" || (IPAddress.TryParse(host.Trim('[', ']'), out var address) && IPAddress.IsLoopback(address));

    /// <summary>Reports a server on another machine that would be spoken to without protection.</summary>
    public static void CheckProtected(SectionReader section, Key security, bool isProtected, string? host)
    {
        if (!isProtected && host is not null && !IsHere(host))
            section.Reading.Add(
                section.At(security),
                $"{section.Title} would cross the network unprotected",
                $"use {string.Join(" or ", security.Choices.Where(choice => choice != "none"))}; none is for a server on this machine (localhost)");
    }
}

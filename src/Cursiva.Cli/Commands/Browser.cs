using System.ComponentModel;
using System.Diagnostics;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Identity;

namespace Cursiva.Cli.Commands;

/// <summary>Opens an address in this machine's browser, which gets nothing of ours but the address.</summary>
internal static class Browser
{
    // What a desktop needs to find its browser and show it. Everything else may be a secret.
    private static readonly string[] s_passedOn =
    [
        "PATH",
        "HOME",
        "USER",
        "LOGNAME",
        "SHELL",
        "LANG",
        "LANGUAGE",
        "TZ",
        "TERM",
        "DISPLAY",
        "WAYLAND_DISPLAY",
        "XAUTHORITY",
        "BROWSER",
        "DBUS_SESSION_BUS_ADDRESS",
        "DESKTOP_SESSION",
        "KDE_FULL_SESSION",
        "KDE_SESSION_VERSION",
    ];

    /// <summary>Opens an address that a browser may be sent to; otherwise, and when there is no browser, a note says so.</summary>
    public static void Open(Uri address, Terminal terminal)
    {
        if (!PersonSignIn.IsWeb(address))
        {
            terminal.Error.Say($"[yellow]Note:[/] no browser was opened: {address.Scheme} is not https");
            return;
        }

        var start = new ProcessStartInfo("xdg-open", [address.AbsoluteUri])
        {
            UseShellExecute = false,
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
        };
        foreach (var name in start.Environment.Keys
            .Where(
                name => !s_passedOn.Contains(name)
                    && !name.StartsWith("XDG_", StringComparison.Ordinal)
                    && !name.StartsWith("LC_", StringComparison.Ordinal))
            .ToArray())
            start.Environment.Remove(name);
        try
        {
            Process.Start(start)?.Dispose();
        }
        catch (Win32Exception error)
        {
            terminal.Error.Say($"[yellow]Note:[/] no browser could be opened: {error.Message}");
        }
    }
}

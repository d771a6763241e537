using System.Globalization;
using Cursiva.Core.Identity;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Tells of a certificate, and of the files that were made.</summary>
internal static class CertificateView
{
    public static void Show(IAnsiConsole console, CertificateFacts facts)
    {
        var pairs = new Pairs();
        pairs.Add("subject", facts.Subject);
        pairs.Add("key", facts.Kind + (facts.HasPrivateKey ? ", including the private key" : ", without the private key"));
        pairs.Add(
            "valid",
            string.Create(CultureInfo.InvariantCulture, $"from {facts.From:yyyy-MM-dd HH:mm}Z until {facts.Until:yyyy-MM-dd HH:mm}Z"));
        pairs.Add("SHA-256", facts.Sha256);
        pairs.Add("SHA-1", facts.Sha1);
        console.MarkupLine("[bold]Certificate[/]");
        pairs.Write(console);
    }

    public static void ShowFiles(IAnsiConsole console, string prefix, bool isProtected)
    {
        var pairs = new Pairs();
        var kept = isProtected
            ? "the private key, encrypted with your password; keep it"
            : "the private key, protected only by its mode 0600; keep it";
        pairs.Add(prefix + ".p12", kept);
        pairs.Add(prefix + ".pem", "the same as PEM");
        pairs.Add(prefix + ".crt", "the public half: give this one to the administrator");
        console.MarkupLine("\n[bold]Files[/]");
        pairs.Write(console);
        console.MarkupLine("\n[bold]In the job file[/]");
        console.WriteLinesAsIs(
            $"  client-auth: private_key_jwt\n  private-key: {{ private: file:{prefix}.p12{(isProtected ? ", password: kept:NAME" : "")} }}");
    }
}

using System.Globalization;
using Cursiva.Core.Identity;
using Spectre.Console;

namespace Cursiva.Cli.Rendering;

/// <summary>Tells of a certificate, and of the files that were made.</summary>
internal static class CertificateView
{
    public static void Show(IAnsiConsole console, CertificateFacts facts)
    {
        var grid = Pairs();
        Row(grid, "subject", facts.Subject);
        Row(grid, "key", facts.Kind + (facts.HasPrivateKey ? ", with the private half" : ", the public half only"));
        Row(grid, "good", string.Create(CultureInfo.InvariantCulture, $"from {facts.From:yyyy-MM-dd HH:mm}Z until {facts.Until:yyyy-MM-dd HH:mm}Z"));
        Row(grid, "SHA-256", facts.Sha256);
        Row(grid, "SHA-1", facts.Sha1);
        console.MarkupLine("[bold]Certificate[/]");
        console.Write(grid);
    }

    public static void ShowFiles(IAnsiConsole console, string prefix, bool isProtected)
    {
        var grid = Pairs();
        var kept = isProtected ? "the private key, under your password; keep it" : "the private key, unprotected but for its mode 0600; keep it";
        Row(grid, prefix + ".p12", kept);
        Row(grid, prefix + ".pem", "the same as PEM");
        Row(grid, prefix + ".crt", "the public half: hand this one to the administrator");
        console.MarkupLine("\n[bold]Files[/]");
        console.Write(grid);
        console.MarkupLine("\n[bold]In the job file[/]");
        console.WriteLinesAsIs($"  client-auth: private_key_jwt\n  private-key: {{ private: file:{prefix}.p12{(isProtected ? ", password: kept:NAME" : "")} }}");
    }

    private static Grid Pairs() => new Grid().AddColumn(new GridColumn { NoWrap = true, Padding = new Padding(2, 0, 2, 0) }).AddColumn();

    private static void Row(Grid grid, string name, string text) => grid.AddRow(Shown.Text(name), Shown.Text(text));
}

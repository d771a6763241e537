using System.Diagnostics;
using System.Net;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text.RegularExpressions;

namespace Cursiva.Cli.Tests;

/// <summary>A certified authorization server of somebody else's, on a free loopback port; its pages are driven as a browser would.</summary>
internal sealed partial class RealServer : IDisposable
{
    private readonly Process _process;
    private readonly HttpClient _browser = new(new HttpClientHandler
    {
        AllowAutoRedirect = false,
        CookieContainer = new CookieContainer(),
        ServerCertificateCustomValidationCallback = (_, _, _, _) => true,
    });

    private RealServer(Process process, string address)
    {
        _process = process;
        Address = address;
    }

    public string Address { get; }

    /// <summary>Starts the server, or skips the test where it is not installed.</summary>
    /// <param name="folder">Holds the clients' certificates; the server's own are written there, and authority.pem.</param>
    public static async Task<RealServer> StartAsync(string folder)
    {
        Tools.Require("node");
        var home = Path.Combine(App.Root, "tests", "real");
        Assert.SkipUnless(Directory.Exists(Path.Combine(home, "node_modules")), "the real authorization server is not installed; npm ci in tests/real installs it");
        WriteServerCertificate(folder);
        var process = Process.Start(new ProcessStartInfo("node", ["server.mjs", folder]) { WorkingDirectory = home, RedirectStandardOutput = true, RedirectStandardError = true })!;
        var error = process.StandardError.ReadToEndAsync();
        while (await process.StandardOutput.ReadLineAsync() is { } line)
        {
            if (line.StartsWith("listening on ", StringComparison.Ordinal))
                return new RealServer(process, line["listening on ".Length..]);
        }

        throw new InvalidOperationException("the real server did not start: " + await error);
    }

    /// <summary>Signs in and agrees, page by page, until an address leaves the server.</summary>
    public async Task<string> AgreeAsync(string address)
    {
        var at = new Uri(address);
        for (var pages = 0; pages < 20; pages++)
        {
            if (!at.AbsoluteUri.StartsWith(Address, StringComparison.Ordinal))
                return at.AbsoluteUri;
            using var answer = await _browser.GetAsync(at);
            at = answer.Headers.Location is { } location ? new Uri(at, location) : await SubmitAsync(at, await answer.Content.ReadAsStringAsync());
            if (at.AbsolutePath == "/done")
                return "";
        }

        throw new InvalidOperationException($"the pages never end; the last is {at}");
    }

    /// <summary>Calls the address that the browser was sent to.</summary>
    public async Task VisitAsync(string address) => (await _browser.GetAsync(address)).Dispose();

    public void Dispose()
    {
        _process.Kill();
        _process.WaitForExit();
        _process.Dispose();
        _browser.Dispose();
    }

    private async Task<Uri> SubmitAsync(Uri at, string page)
    {
        var action = Action().Match(page);
        if (!action.Success)
            return new Uri(at, "/done");
        var form = Hidden().Matches(page).ToDictionary(field => field.Groups["name"].Value, field => WebUtility.HtmlDecode(field.Groups["value"].Value));
        if (page.Contains("name=\"login\"", StringComparison.Ordinal))
            (form["login"], form["password"]) = ("night-clerk", "any");
        if (page.Contains("name=\"user_code\"", StringComparison.Ordinal) && !form.ContainsKey("user_code"))
            form["user_code"] = at.Query.Split("user_code=")[1];
        using var answer = await _browser.PostAsync(new Uri(at, WebUtility.HtmlDecode(action.Groups[1].Value)), new FormUrlEncodedContent(form));
        if (answer.Headers.Location is { } location)
            return new Uri(at, location);
        var next = await answer.Content.ReadAsStringAsync();
        return await SubmitAsync(at, next);
    }

    private static void WriteServerCertificate(string folder)
    {
        using var key = RSA.Create(2048);
        var request = new CertificateRequest("CN=127.0.0.1", key, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        var names = new SubjectAlternativeNameBuilder();
        names.AddIpAddress(IPAddress.Loopback);
        request.CertificateExtensions.Add(names.Build());
        request.CertificateExtensions.Add(new X509BasicConstraintsExtension(true, false, 0, true));
        using var certificate = request.CreateSelfSigned(DateTimeOffset.UtcNow.AddDays(-1), DateTimeOffset.UtcNow.AddDays(2));
        File.WriteAllText(Path.Combine(folder, "server.pem"), certificate.ExportCertificatePem());
        File.WriteAllText(Path.Combine(folder, "authority.pem"), certificate.ExportCertificatePem());
        File.WriteAllText(Path.Combine(folder, "server-key.pem"), key.ExportPkcs8PrivateKeyPem());
    }

    [GeneratedRegex("<form[^>]*action=\"([^\"]*)\"")]
    private static partial Regex Action();

    [GeneratedRegex("<input[^>]*type=\"hidden\"[^>]*name=\"(?<name>[^\"]*)\"[^>]*value=\"(?<value>[^\"]*)\"")]
    private static partial Regex Hidden();
}

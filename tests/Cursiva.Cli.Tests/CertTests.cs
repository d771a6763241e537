using System.Security.Cryptography.X509Certificates;
using System.Text.Json;

namespace Cursiva.Cli.Tests;

public sealed class CertTests : IDisposable
{
    private readonly SignInJob _job = new("http://127.0.0.1:1", "grant: none");

    public void Dispose() => _job.Dispose();

    [Theory]
    [InlineData("rsa2048", "RSA 2048")]
    [InlineData("rsa3072", "RSA 3072")]
    [InlineData("rsa4096", "RSA 4096")]
    [InlineData("p256", "EC P-256")]
    [InlineData("p384", "EC P-384")]
    public async Task A_key_pair_is_made_and_shown(string kind, string name)
    {
        var made = (await _job.DoAsync(["cert", "create", "--out", "c", "--kind", kind, "--subject", "CN=Night export, O=Brackwater", "--from", "2026-01-01", "--until", "2027-06-30", "--password", "env:CLIENT_SECRET"])).ShouldEndWith(0);
        using var certificate = X509CertificateLoader.LoadCertificateFromFile(_job["c.crt"]);
        foreach (var text in new[] { name, certificate.Thumbprint, "CN=Night export, O=Brackwater", "from 2026-01-01 00:00Z until 2027-06-30 23:59Z", "give this one to the administrator" })
            made.Out.ShouldContain(text);

        using var pfx = X509CertificateLoader.LoadPkcs12FromFile(_job["c.p12"], Job.Secret);
        pfx.HasPrivateKey.ShouldBeTrue();
        using var pem = X509Certificate2.CreateFromEncryptedPemFile(_job["c.pem"], Job.Secret);
        pem.Thumbprint.ShouldBe(certificate.Thumbprint);
        certificate.HasPrivateKey.ShouldBeFalse();
        foreach (var file in new[] { "c.p12", "c.pem" })
            File.GetUnixFileMode(_job[file]).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);

        foreach (var (file, half) in new[] { ("c.crt", "without the private key"), ("c.pem", "including the private key"), ("c.p12", "including the private key") })
        {
            var shown = (await _job.DoAsync(["cert", "show", file, "--password", "env:CLIENT_SECRET"])).ShouldEndWith(0);
            shown.Out.ShouldContain(half);
            shown.Out.ShouldContain(certificate.GetCertHashString(System.Security.Cryptography.HashAlgorithmName.SHA256));
        }
    }

    [Fact]
    public async Task Files_that_are_there_are_not_replaced_unless_told_to()
    {
        await _job.CertificateAsync("c", "--kind", "p256");
        var before = File.ReadAllBytes(_job["c.p12"]);
        (await _job.DoAsync(["cert", "create", "--out", "c", "--kind", "p256"])).ShouldEndWith(2).Error.ShouldContain("c.p12 already exists");
        File.ReadAllBytes(_job["c.p12"]).ShouldBe(before);
        await _job.CertificateAsync("c", "--kind", "p256", "--force");
        File.ReadAllBytes(_job["c.p12"]).ShouldNotBe(before);
    }

    [Theory]
    [InlineData("--until 2020-01-01 --from 2021-01-01", 2, "before it becomes valid")]
    [InlineData("--until soon", 2, "--until 'soon' is not a day")]
    [InlineData("--kind dsa", 2, "dsa")]
    [InlineData("--password hunter2", 2, "--password is not a secret source")]
    [InlineData("--out none/c", 1, "the files cannot be written")]
    [InlineData("--subject =x=", 2, "is not a subject name")]
    public async Task Bad_input_is_told_and_nothing_is_left(string arguments, int code, string message)
    {
        var ended = (await _job.DoAsync(["cert", "create", .. arguments.StartsWith("--kind") ? [] : new[] { "--kind", "p256" }, .. arguments.Split(' ')])).ShouldEndWith(code);
        ended.Error.ShouldContain(message);
        ended.Error.ShouldNotContain("hunter2");
        Directory.GetFiles(_job.Folder, "*.p*").ShouldBeEmpty();
    }

    [Fact]
    public async Task A_file_that_is_none_is_told_and_json_has_everything()
    {
        File.WriteAllText(_job["x.p12"], "nonsense");
        (await _job.DoAsync(["cert", "show", "x.p12"])).ShouldEndWith(2).Error.ShouldContain("cannot be read");
        (await _job.DoAsync(["cert", "show", "none.crt"])).ShouldEndWith(2).Error.ShouldContain("there is no such file");
        using var made = JsonDocument.Parse((await _job.DoAsync(["cert", "create", "--kind", "p256", "--format", "json"])).ShouldEndWith(0).Out);
        made.RootElement.GetProperty("sha256").GetString()!.Length.ShouldBe(64);
    }
}

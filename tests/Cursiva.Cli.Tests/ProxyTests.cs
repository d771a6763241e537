namespace Cursiva.Cli.Tests;

/// <summary>Proxies that the environment names, and authorities of the machine.</summary>
public sealed class ProxyTests
{
    private const string Rows = "depots: { get: /depots, rows: /items, paging: { next-link: /links/next } }";
    private const string Report = "all: { sql: select name from depots order by name, write: all.csv }";

    [Theory]
    [InlineData("HTTPS_PROXY")]
    [InlineData("https_proxy")]
    [InlineData("ALL_PROXY")]
    public async Task Requests_to_the_outside_take_the_proxy_and_the_authority_of_the_machine_is_trusted(string variable)
    {
        using var authority = new TemporaryFolder();
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--tls-authority", authority["authority.pem"]);
        using var proxy = new TunnelProxy(new Uri(cloud.Address).Port);
        using var job = Outside();
        var ended = await job.DoAsync(["run", job.Path], environment: [(variable, proxy.Address), ("SSL_CERT_FILE", authority["authority.pem"])]);
        ended.ShouldEndWith(0);
        proxy.Hosts.Keys.Order().ShouldBe(["api.brackwater.example:443", "login.brackwater.example:443"]);
        File.ReadAllLines(job["reports/all.csv"]).Length.ShouldBeGreaterThan(5);
    }

    [Fact]
    public async Task A_host_under_no_proxy_is_asked_directly_and_an_authority_that_nobody_named_is_not_trusted()
    {
        using var authority = new TemporaryFolder();
        using var cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--tls-authority", authority["authority.pem"]);
        using var proxy = new TunnelProxy(new Uri(cloud.Address).Port);
        using var job = Outside();

        // No name server knows the host, so what goes there directly does not arrive.
        var direct = await job.DoAsync(["check", job.Path, "--live"], environment: [("HTTPS_PROXY", proxy.Address), ("NO_PROXY", ".brackwater.example"), ("SSL_CERT_FILE", authority["authority.pem"])]);
        direct.Code.ShouldNotBe(0);
        proxy.Hosts.ShouldBeEmpty();

        var untrusted = await job.DoAsync(["check", job.Path, "--live"], environment: [("HTTPS_PROXY", proxy.Address)]);
        untrusted.Code.ShouldNotBe(0);
        (untrusted.Out + untrusted.Error).ShouldContain("trust");
        proxy.Hosts.Keys.ShouldContain("login.brackwater.example:443");
    }

    private static Job Outside()
    {
        var job = new Job("https://api.brackwater.example", Rows, Report);
        job.Yaml = job.Yaml.Replace("https://api.brackwater.example/oauth2", "https://login.brackwater.example/oauth2");
        job.Save();
        return job;
    }
}

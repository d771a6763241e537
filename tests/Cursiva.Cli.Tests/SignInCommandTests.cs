namespace Cursiva.Cli.Tests;

/// <summary><c>cursiva sign-in</c>: once, by a person, at the stand-in's pages.</summary>
public sealed class SignInCommandTests
{
    private const string Person = "grant: authorization_code\nissuer: '{cloud}'\nclient-id: brackwater-person\nscope: [consignments.read, offline_access]";

    [Theory]
    [InlineData("")]
    [InlineData("redirect-uri: http://127.0.0.1:48731/signed-in")]
    [InlineData("redirect-uri: http://localhost/signed/in")]
    [InlineData("redirect-uri: 'http://[::1]/in'")]
    public async Task A_browser_brings_the_answer_and_runs_live_on_the_refresh_token(string redirect)
    {
        using var cloud = await StandIn.StartAsync();
        using var job = new SignInJob(cloud.Address, Person + "\n" + redirect);
        (await job.RunAsync()).ShouldEndWith(4).Error.ShouldContain($"sign in once: cursiva sign-in {job.Path} app");
        var signedIn = await job.SignInAsync(cloud.BrowseAsync);
        signedIn.ShouldEndWith(0).Out.ShouldContain("The refresh token is stored as 'refresh-token/");
        signedIn.Error.ShouldContain("Granted: consignments.read offline_access");
        for (var i = 0; i < 2; i++)
            (await job.DoAsync(["token", "get", job.Path])).ShouldEndWith(0);
        (await job.RunAsync()).ShouldEndWith(0);
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task The_answer_can_be_pasted(bool codeAlone)
    {
        using var cloud = await StandIn.StartAsync();
        using var job = new SignInJob(cloud.Address, Person + "\nredirect-uri: https://jobs.brackwater.example/signed-in");
        var pasted = await PasteAsync(job, address => codeAlone ? address.Split("code=")[1].Split('&')[0] : address);
        if (codeAlone)
        {
            // This server promises that its answers name it, and a code alone does not.
            pasted.ShouldEndWith(4).Error.ShouldContain("a code does not include its issuer");
            job.Write(cloud.Address, Person.Replace("issuer: '{cloud}'", "authorization-endpoint: '{cloud}/oauth2/authorize'\ntoken-endpoint: '{cloud}/oauth2/token'") + "\nredirect-uri: https://jobs.brackwater.example/signed-in");
            pasted = await PasteAsync(job, address => address.Split("code=")[1].Split('&')[0]);
        }

        pasted.ShouldEndWith(0);
        (await job.RunAsync()).ShouldEndWith(0);
    }

    [Theory]
    [InlineData("state=", "state=x", "the answer belongs to another sign-in")]
    [InlineData("iss=http", "iss=https%3A%2F%2Fother.example%2F", "the answer comes from the issuer https://other.example/")]
    [InlineData("&iss=", "&was=", "the answer names no issuer, and this server says that it always does")]
    [InlineData("code=", "nothing=", "has no code in it")]
    public async Task An_answer_that_was_tampered_with_is_refused(string part, string other, string message)
    {
        using var cloud = await StandIn.StartAsync();
        using var job = new SignInJob(cloud.Address, Person);
        (await PasteAsync(job, address => address.Replace(part, other))).ShouldEndWith(4).Error.ShouldContain(message);
    }

    [Theory]
    [InlineData("person-refuses", "access_denied: the person said no", "the person, or a rule of the organisation, refused")]
    [InlineData("code-expires", "the authorization code has expired", "paste the answer within a minute")]
    [InlineData("no-refresh", "ask for refresh tokens to be allowed for the client", "")]
    [InlineData("scope-less", "requested and not granted: offline_access", "")]
    public async Task What_the_server_makes_of_it_is_told(string quirk, string message, string cause)
    {
        using var cloud = await StandIn.StartAsync("--quirk", quirk);
        using var job = new SignInJob(cloud.Address, Person);
        var ended = await job.SignInAsync(cloud.BrowseAsync);
        ended.Code.ShouldBe(quirk is "scope-less" or "no-refresh" ? 0 : 4, ended.All);
        ended.Error.ShouldContain(message);
        ended.Error.ShouldContain(cause);
    }

    [Fact]
    public async Task Without_a_refresh_token_the_access_token_is_used_until_it_ends_and_the_way_to_one_is_told()
    {
        using var cloud = await StandIn.StartAsync();
        using var job = new SignInJob(cloud.Address, Person.Replace(", offline_access", ""));
        var ended = (await job.SignInAsync(cloud.BrowseAsync)).ShouldEndWith(0);
        ended.Out.ShouldContain("The access token is stored, and runs of the job use it until 20");
        ended.Error.ShouldContain("add offline_access to scope:");
        (await job.RunAsync()).ShouldEndWith(0);
        (await job.RunAsync()).ShouldEndWith(0);
    }

    [Fact]
    public async Task A_device_code_is_confirmed_elsewhere()
    {
        using var cloud = await StandIn.StartAsync();
        using var job = new SignInJob(cloud.Address, Person.Replace("authorization_code", "urn:ietf:params:oauth:grant-type:device_code"));
        var ended = await job.SignInAsync(cloud.BrowseAsync);
        ended.ShouldEndWith(0).Error.ShouldContain("enter the code ");
        (await job.RunAsync()).ShouldEndWith(0);
    }

    [Fact]
    public async Task A_device_code_that_nobody_confirms_ends()
    {
        using var cloud = await StandIn.StartAsync("--device-lifetime", "2");
        using var job = new SignInJob(cloud.Address, Person);
        (await job.DoAsync(["sign-in", job.Path, "--device"])).ShouldEndWith(4).Error.ShouldContain("nobody confirmed in time");
    }

    [Fact]
    public async Task A_port_that_another_program_uses_is_told()
    {
        using var other = new System.Net.Sockets.TcpListener(System.Net.IPAddress.Loopback, 0);
        other.Start();
        using var cloud = await StandIn.StartAsync();
        using var job = new SignInJob(cloud.Address, Person + $"\nredirect-uri: http://{other.LocalEndpoint}/in");
        (await job.DoAsync(["sign-in", job.Path])).ShouldEndWith(4).Error.ShouldContain("cannot listen for the answer at http://127.0.0.1:");
    }

    [Fact]
    public async Task A_prompt_ends_at_the_first_interrupt()
    {
        Tools.Require("script");
        using var cloud = await StandIn.StartAsync();
        using var job = new SignInJob(cloud.Address, Person);
        foreach (var (command, prompt) in new[] { ("secret keep app", "not shown"), ($"sign-in {job.Path} --paste", "Paste the address") })
        {
            // The terminal makes SIGINT of the character, as of a person's Ctrl-C.
            var shell = $"(for i in $(seq 200); do grep -q '{prompt}' shown && break; sleep 0.05; done; sleep 0.2; printf '\\003'; sleep 5) | timeout 20 script -qec \"{App.Cursiva} {command}\" /dev/null > shown; exit ${{PIPESTATUS[1]}}";
            (await App.RunAsync("bash", ["-c", shell], job.Folder, [.. job.Environment, ("TERM", "xterm")])).ShouldEndWith(130);
        }
    }

    [Fact]
    public async Task An_identity_that_signs_in_by_itself_needs_no_person()
    {
        using var job = new SignInJob("http://127.0.0.1:1", "grant: client_credentials\nclient-id: a\nsecret: env:CLIENT_SECRET\ntoken-endpoint: '{cloud}/t'");
        (await job.DoAsync(["sign-in", job.Path, "app"])).ShouldEndWith(2).Error.ShouldContain("signs in without a person, with client_credentials");
        (await job.DoAsync(["sign-in", job.Path, "other"])).ShouldEndWith(2).Error.ShouldContain("name one of app");
    }

    private static Task<Ended> PasteAsync(SignInJob job, Func<string, string> change) =>
        job.SignInAsync(async address => change(await StandIn.LocationAsync(address)), "--paste");
}

namespace Cursiva.Cli.Tests;

/// <summary>Every entry of the catalogue of refusals that tells a command: it is provoked, its command is run as printed, and has the effect.</summary>
public sealed class CatalogueAdviceTests : IDisposable
{
    private const string Good = "the-right-one";

    private const string Client = "token-endpoint: '{cloud}/token'\nclient-id: desk\n";

    private const string Secret = "grant: client_credentials\n" + Client + "secret: kept:exchange";

    private const string Password = "grant: password\n" + Client + "secret: kept:exchange\nusername: clerk\npassword: kept:clerk-password";

    private const string Key = "grant: client_credentials\n" + Client + "private-key: { private: file:app.p12 }";

    private const string Person = "grant: authorization_code\n" + Client + "authorization-endpoint: '{cloud}/authorize'";

    private const string FixedKey = "grant: header\nheader: X-Api-Key\nsecret: kept:exchange";

    private readonly RefusingServer _server = new();

    public void Dispose() => _server.Dispose();

    /// <summary>The entry; who signs in; the status, with A where the API refuses; the answer.</summary>
    public static TheoryData<string, string, string, string> Entries => new()
    {
        { "white-space-in-secret", "white " + Secret, "401", """{"error":"invalid_client","error_description":"the client secret is wrong"}""" },
        { "white-space-in-secret-unsaid", "white " + Secret, "401", """{"error":"invalid_client"}""" },
        { "secret-expired", Secret, "401", """{"error":"invalid_client","error_description":"the client secret has expired"}""" },
        { "password-expired", Password, "400", """{"error":"invalid_grant","error_description":"the password has expired"}""" },
        { "second-factor", Password, "400", """{"error":"invalid_grant","error_description":"multi-factor authentication is required"}""" },
        { "interaction-wanted", Person, "400", """{"error":"invalid_grant","error_description":"new terms have to be accepted in the portal"}""" },
        { "interaction-wanted", Password, "400", """{"error":"invalid_grant","error_description":"terms of use have to be accepted first"}""" },
        { "interaction-wanted-code", Person, "400", """{"error":"interaction_required"}""" },
        { "person-wanted", Secret, "400", """{"error":"unauthorized_client","error_description":"this resource can only be used by a signed-in person"}""" },
        { "refresh-cut-short", "cut " + Person, "400", """{"error":"invalid_grant","error_description":"the refresh token was used before"}""" },
        { "refresh-cut-short-unsaid", "cut " + Person, "400", """{"error":"invalid_grant"}""" },
        { "refresh-of-other-client", Person, "400", """{"error":"invalid_grant","error_description":"the token was issued to another client"}""" },
        { "refresh-revoked", Person, "400", """{"error":"invalid_grant","error_description":"the token was revoked"}""" },
        { "refresh-used", Person, "400", """{"error":"invalid_grant","error_description":"the refresh token was used before"}""" },
        { "refresh-expired", Person, "400", """{"error":"invalid_grant","error_description":"the refresh token has expired"}""" },
        { "refresh-refused", Person, "400", """{"error":"invalid_grant"}""" },
        { "refresh-refused", "seed", "400", """{"error":"invalid_grant"}""" },
        { "certificate-ended", Key, "401", """{"error":"invalid_client","error_description":"the certificate has expired"}""" },
        { "key-not-registered", Key, "401", """{"error":"invalid_client","error_description":"the certificate is not registered for this client"}""" },
        { "client-refused-key", Key, "401", """{"error":"invalid_client"}""" },
        { "client-certificate", Secret, "401", """{"error":"invalid_client","error_description":"a TLS client certificate is required"}""" },
        { "step-up", Person, "A403", """{"message":"multi-factor authentication is required"}""" },
        { "step-up", Secret, "A403", """{"message":"multi-factor authentication is required"}""" },
        { "key-header-missing", Secret, "A401", """{"message":"Missing API key"}""" },
        { "key-wrong", FixedKey, "A401", """{"message":"Invalid API key"}""" },
        { "key-refused", FixedKey, "A401", "" },
        { "token-malformed", Secret, "A401", """{"message":"malformed token"}""" },
        { "persons-only", Secret, "A403", """{"message":"operation is not supported for applications"}""" },
        { "permission-missing-in-token", Secret + "\npermissions: [depots.manage]", "A403", "" },
        { "token-refused", Secret, "A401", "" },
    };

    [Theory]
    [MemberData(nameof(Entries))]
    public async Task The_command_of_a_refusal_does_what_it_promises(string entry, string identity, string refusal, string answer)
    {
        var (cause, step) = Documented()[entry];
        using var job = await JobAsync(identity);
        (_server.Refuses, _server.AtTheApi, _server.Answer, _server.LetsIn) = (int.Parse(refusal.TrimStart('A')), refusal[0] == 'A', answer, Good);
        var refused = (await job.RunAsync("--new")).ShouldEndWith(refusal[0] == 'A' ? 5 : 4);
        refused.Error.ShouldContain("cause:    " + cause.Split('{')[0]);
        var advised = entry == "interaction-wanted" && identity == Password ? new Advised("StepPlace.cs", "", "use a grant with a person behind it: authorization_code, then cursiva sign-in") : new Advised("", "", "next:     ");
        var verbs = advised.CommandsIn(refused.Error).Select(command => string.Join(' ', command.Split(' ').Skip(1).Take(2).Where(word => !word.Contains('/')))).ToList();
        var promised = identity is "seed" ? ["secret keep"] : new Advised("", "", "").CommandsIn(step).Select(command => string.Join(' ', command.Split(' ').Skip(1).Take(2).Where(word => word != "JOB"))).ToList();
        verbs.ShouldBe(promised, refused.Error);
        foreach (var command in advised.CommandsIn(refused.Error))
            await FollowAsync(job, command);
    }

    [Fact]
    public void Every_entry_that_tells_a_command_is_among_them() =>
        Documented().Where(entry => entry.Value.Step.Contains("cursiva ")).Select(entry => entry.Key).Except(Entries.Select(row => row.Data.Item1)).ShouldBeEmpty();

    // What a person would do with the command, and that it helps.
    private async Task FollowAsync(SignInJob job, string command)
    {
        if (command.StartsWith("cursiva secret keep", StringComparison.Ordinal))
        {
            (await Advised.RunAsync(command, job.Folder, job.Environment, Good)).ShouldEndWith(0);
            if (command.EndsWith(" api-key", StringComparison.Ordinal))
                File.WriteAllText(job.Path, File.ReadAllText(job.Path).Replace("    secret: kept:exchange", "    secret: kept:exchange\n    headers-beside: { X-Api-Key: kept:api-key }"));
        }
        else if (command.StartsWith("cursiva sign-in", StringComparison.Ordinal))
        {
            // Where nobody signs in yet, the message has the grant changed first.
            if (!File.ReadAllText(job.Path).Contains(Person.Split('\n')[0]))
                job.Write(_server.Address, Person);
            _server.Refuses = null;
            (await job.BrowseAsync(RefusingServer.BrowseAsync, [.. command.Split(' ').Skip(1)])).ShouldEndWith(0);
        }
        else if (command.StartsWith("cursiva cert show", StringComparison.Ordinal))
        {
            (await Advised.RunAsync(command, job.Folder, job.Environment)).ShouldEndWith(0).Out.ShouldContain("SHA-256");
            return;
        }
        else if (command == "cursiva cert create")
        {
            (await Advised.RunAsync(command, job.Folder, job.Environment)).ShouldEndWith(0);
            job.Write(_server.Address, Key.Replace("app.p12", "cursiva-cert.p12"));
            _server.Refuses = null;
        }
        else
        {
            command.ShouldStartWith("cursiva token read --job ");
            (await Advised.RunAsync(command, job.Folder, job.Environment)).Out.ShouldContain("depots.read");
            return;
        }

        (await job.RunAsync("--new")).ShouldEndWith(0);
    }

    private async Task<SignInJob> JobAsync(string identity)
    {
        var white = identity.StartsWith("white ", StringComparison.Ordinal);
        var cut = identity.StartsWith("cut ", StringComparison.Ordinal);
        identity = identity[(white ? 6 : cut ? 4 : 0)..];
        var job = new SignInJob(_server.Address, identity == "seed" ? "grant: refresh_token\n" + Client + "secret: kept:exchange\nrefresh-token: kept:seed" : identity);
        foreach (var name in new[] { "exchange", "clerk-password", "seed" }.Where(name => File.ReadAllText(job.Path).Contains("kept:" + name)))
            (await job.DoAsync(["secret", "keep", name, "--as-is"], white ? "yesterdays " : "yesterdays")).ShouldEndWith(0);
        if (identity == Key)
            await job.CertificateAsync("app", "--kind", "p256");
        if (identity != Person)
            return job;
        (await job.SignInAsync(RefusingServer.BrowseAsync)).ShouldEndWith(0);

        if (cut)
            await CutAsync(job);
        return job;
    }

    // A process dies while the server answers.
    private async Task CutAsync(SignInJob job)
    {
        _server.Slow = TimeSpan.FromSeconds(1);
        var before = _server.SlowRequests;
        await job.DoAsync(["token", "get", job.Path], during: async process =>
        {
            for (var i = 0; _server.SlowRequests == before; i++)
            {
                i.ShouldBeLessThan(3000, "no renewal in 30 s");
                await Task.Delay(10);
            }

            process.Kill();
        });
        _server.Slow = TimeSpan.Zero;
    }

    // The causes and steps as the page of refusals has them, which is made from the catalogue.
    private static Dictionary<string, (string Cause, string Step)> Documented() =>
        File.ReadLines(Path.Combine(App.Root, "docs", "refusals.md")).Where(line => line.StartsWith("| ", StringComparison.Ordinal) && !line.StartsWith("| name", StringComparison.Ordinal))
            .Select(line => line.Split(" | ")).ToDictionary(cells => cells[0][2..], cells => (cells[2], cells[3].TrimEnd(' ', '|')));
}

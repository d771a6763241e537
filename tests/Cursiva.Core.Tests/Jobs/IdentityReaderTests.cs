using CsCheck;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Jobs;

public sealed class IdentityReaderTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Theory]
    [InlineData("grant: client_credentials, client-id: a, secret: env:S", "has no 'token-endpoint'")]
    [InlineData("grant: client_credentials, client-id: a, issuer: https://x.example", "has no 'secret' and no 'private-key'")]
    [InlineData("grant: client_credentials, client-id: ' a', secret: env:S, issuer: https://x.example", "white space before the client id")]
    [InlineData("grant: client_credentials, client-id: \"a\\n\", secret: env:S, issuer: https://x.example", "white space after the client id")]
    [InlineData("grant: client_credentials, client-id: a, client-auth: private_key_jwt, issuer: https://x.example, secret: env:S", "has no 'private-key'")]
    [InlineData("grant: client_credentials, client-id: a, client-auth: client_secret_bsic, issuer: https://x.example, secret: env:S", "did you mean 'client_secret_basic'?")]
    [InlineData("grant: client_credentials, client-id: a, issuer: http://x.example, secret: env:S", "would carry credentials unencrypted")]
    [InlineData("grant: jwt-bearer, client-id: a, issuer: https://x.example", "did you mean 'urn:ietf:params:oauth:grant-type:jwt-bearer'?")]
    [InlineData("grant: 'urn:ietf:params:oauth:grant-type:jwt-bearer', issuer: https://x.example", "has no 'private-key'")]
    [InlineData("grant: password, client-id: a, issuer: https://x.example", "has no 'username'")]
    [InlineData("grant: header", "has no 'secret'")]
    [InlineData("grant: header, secret: env:S, header: 'X Key'", "is not a header name")]
    [InlineData("grant: header, secret: env:S, headers-beside: { X-A: '{tokn/a}' }", "no input is named 'tokn/a'")]
    [InlineData("grant: client_credentials, client-id: a, secret: [env:S, hunter2], issuer: https://x.example", "is not a secret source")]
    [InlineData("grant: client_credentials, client-id: a, issuer: https://x.example, private-key: { private: file:a.p12 }, assertion: { lifetime: 6m }", "at most 5m")]
    [InlineData("grant: client_credentials, client-id: a, issuer: https://x.example, private-key: { certificate: a.crt }", "has no 'private'")]
    [InlineData("grant: refresh_token, client-id: a, issuer: https://x.example, refresh-token: rt-123", "is not a secret source")]
    public void A_mistake_is_told_with_its_place_and_no_secret(string identity, string message)
    {
        var mistakes = Should.Throw<JobMistakesException>(() => Read(identity)).Mistakes;
        mistakes.ShouldContain(mistake => mistake.ToString().Contains(message), string.Join('\n', mistakes));
        mistakes.ShouldAllBe(mistake => mistake.Place.Line > 1 && !mistake.ToString().Contains("hunter2") && !mistake.ToString().Contains("rt-123"));
    }

    [Fact]
    public void Every_grant_has_one_registered_value_and_what_is_none_is_nobody()
    {
        Grants.All.ShouldBeUnique();
        Grants.All.Select(value => Grants.Of(value).Value).ShouldBe(Grants.All);
        Grants.All.Order().ShouldBe(typeof(Grants).GetFields().Where(field => field.IsLiteral).Select(field => (string)field.GetRawConstantValue()!).Order());
        Grants.Of("implicit").Value.ShouldBe(Grants.None);
    }

    [Fact]
    public void Everything_that_can_be_said_is_read()
    {
        var identity = Read("""
            grant: "urn:ietf:params:oauth:grant-type:jwt-bearer", issuer: "https://x.example/{who}", client-id: a, client-auth: [client_secret_basic, client_secret_post], secret: [kept:new, "systemd:old"],
            private-key: { private: "file:{who}.p12", certificate: a.crt, password: "kept:pfx", key-id: k }, assertion: { audience: b, issuer: c, subject: d, lifetime: 5m, algorithm: PS256, x5c: true, claims: { scope: e } },
            refresh-token: "kept:x/{who}", redirect-uri: https://jobs.example/in, scope: [a, b c], token-parameters: { audience: f }, authorization-parameters: { prompt: consent }, token-body: json,
            token-at: /data/0/t, header: X-T, scheme: Token, headers-beside: { X-P: kept:p, X-A: "{who}-{token/a~1b}" }, permissions: [P.Read], claims: { aud: g }, trust: ca.pem
            """.Replace("\n", " "));
        identity.Issuer!.AbsoluteUri.ShouldBe("https://x.example/me");
        identity.RefreshToken!.Text.ShouldBe("kept:x/me");
        identity.Key.ShouldBe(new DeclaredKey(SecretSource.TryParse("file:me.p12")!, "a.crt", SecretSource.TryParse("kept:pfx"), "k"));
        identity.Scope.ShouldBe(["a", "b", "c"]);
        identity.Presentation.Beside["x-a"].TryFill(name => name == "token/a~1b" ? "7" : null)!.Text.ShouldBe("me-7");
        (identity.Assertion.Lifetime, identity.Assertion.SendCertificate, identity.TokenBodyIsJson).ShouldBe((TimeSpan.FromMinutes(5), true, true));
    }

    [Theory]
    [InlineData("issuer: c")]
    [InlineData("subject: d")]
    [InlineData("claims: { scope: e }")]
    public void What_an_assertion_of_the_client_never_says_is_a_mistake(string key)
    {
        var mistake = Should.Throw<JobMistakesException>(() => Read($"grant: client_credentials, token-endpoint: https://x.example, client-id: a, private-key: {{ private: file:a.pem }}, assertion: {{ {key} }}")).Mistakes.ShouldHaveSingleItem();
        mistake.Found.ShouldBe($"assertion: {key.Split(':')[0]}: where the assertion proves the client");
        mistake.Right.ShouldContain("(RFC 7523 section 3)");
    }

    [Fact]
    public void Any_job_file_is_read_or_its_mistakes_are_told()
    {
        string[] words = ["cursiva: 1\n", "identities:\n", "  app:\n", "    grant: ", "client_credentials\n", "    secret: ", "env:S\n", "[a, {b: c}]\n", "pulls:\n", "  p: ", "{ get: /x, rows: /y }\n", "apis: ", "{ e: { base: https://x.example } }\n", "- ", ": ", "{", "}", "\"", "&a ", "*a\n", "\t", "#", "\n", "!!binary x\n", "    private-key: { private: file:a }\n", "\u0000", "é"];
        Gen.Int[0, words.Length - 1].Select(place => words[place]).List[0, 24].Sample(list =>
        {
            var path = Path.Combine(_folder.Path, $"{Environment.CurrentManagedThreadId}.cursiva.yaml");
            File.WriteAllText(path, string.Concat(list));
            try
            {
                JobReader.Read(path, new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);
            }
            catch (JobMistakesException error)
            {
                error.Mistakes.ShouldNotBeEmpty();
            }
        });
    }

    private DeclaredIdentity Read(string identity)
    {
        _folder.Write("job.cursiva.yaml", $"cursiva: 1\ninputs: {{ who: me }}\nidentities:\n  app: {{ {identity} }}\napis: {{ e: {{ base: https://x.example, identity: app }} }}\npulls: {{ p: {{ get: /x, rows: /y }} }}\n");
        return JobReader.Read(Path.Combine(_folder.Path, "job.cursiva.yaml"), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch).Identities["app"];
    }
}

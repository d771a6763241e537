using System.Text;
using CsCheck;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;
using Cursiva.Core.Tests.Identity;

namespace Cursiva.Core.Tests.Secrets;

public sealed class SecretsTests : IAsyncDisposable
{
    private readonly TemporaryFolder _folder = new();
    private readonly SignInFixture _fixture = new();

    public async ValueTask DisposeAsync()
    {
        await _fixture.DisposeAsync();
        _folder.Dispose();
    }

    [Fact]
    public void A_known_secret_is_masked_in_every_form_it_takes() =>
        Gen.String[Gen.Char["ab+/= %&\"é€"], 4, 20].Sample(secret =>
        {
            var redactor = new Redactor();
            redactor.Remember(secret);
            foreach (var form in new[] { secret, Uri.EscapeDataString(secret), Convert.ToBase64String(Encoding.UTF8.GetBytes(secret)) })
                redactor.Clean($"<{form}>").ShouldBe($"<{Redactor.Mask}>");
        });

    [Fact]
    public void A_secret_does_not_show_itself()
    {
        var token = new AccessToken(new Redactor().Remember("very-secret"), [new("Authorization", new Redactor().Remember("Bearer very-secret"))], DateTimeOffset.UnixEpoch);
        token.ToString().ShouldNotContain("very-secret");
    }

    [Fact]
    public async Task Sources_are_read()
    {
        _folder.Write("creds.json", """{"installed":{"client/secret":"from inside"}}""");
        _folder.Write("secret.txt", "from a file\n");
        (await Sources("from the environment").ReadAsync(SecretSource.TryParse("env:NAME")!, default)).Reveal().ShouldBe("from the environment");
        (await Sources(null).ReadAsync(SecretSource.TryParse("file:secret.txt")!, default)).Reveal().ShouldBe("from a file");
        (await Sources(null).ReadAsync(SecretSource.TryParse("file:creds.json#/installed/client~1secret")!, default)).Reveal().ShouldBe("from inside");
        await _fixture.Services(new HttpClientHandler()).Store.KeepAsync("one", "from the store", null, default);
        (await Sources(null).ReadAsync(SecretSource.TryParse("kept:one")!, default)).Reveal().ShouldBe("from the store");
    }

    [Theory]
    [InlineData("env:NAME", null, "the environment variable NAME is not set")]
    [InlineData("env:NAME", "", "the environment variable NAME is empty")]
    [InlineData("file:none.txt", null, "there is no such file")]
    [InlineData("kept:none", null, "there is no secret named 'none'")]
    [InlineData("systemd:none", null, "needs systemd's credential folder")]
    [InlineData("file:creds.txt#/a", null, "there is no such file")]
    public async Task A_source_with_nothing_behind_it_is_told(string source, string? value, string message)
    {
        var refusal = (await Should.ThrowAsync<RefusedException>(() => Sources(value).ReadAsync(SecretSource.TryParse(source)!, default))).Refusal;
        refusal.What.ShouldContain(message);
        refusal.NextStep.ShouldNotBeNullOrEmpty();
        refusal.Outcome.ShouldBe(Outcome.SignInRefused);
    }

    [Fact]
    public void Basic_credentials_are_form_encoded_and_read_back() =>
        Gen.Select(Gen.String, Gen.String).Where((id, secret) => !(id + secret).Any(char.IsSurrogate)).Sample((id, secret) =>
        {
            var pair = Encoding.UTF8.GetString(Convert.FromBase64String(BasicCredentials.Write(id, secret)["Basic ".Length..])).Split(':');
            pair.Length.ShouldBe(2);
            pair.Select(half => Uri.UnescapeDataString(half.Replace('+', ' '))).ShouldBe([id, secret]);
        });

    [Theory]
    [InlineData("/asked", null, null, null, "/asked")]
    [InlineData(null, "/c", "/s", "/x", "/c")]
    [InlineData(null, null, "/s:/t", "/x", "/s")]
    [InlineData(null, null, null, "/x", "/x/cursiva")]
    [InlineData(null, null, null, null, "/home/me/.local/state/cursiva")]
    public void State_is_kept_where_the_environment_says(string? asked, string? own, string? systemd, string? xdg, string expected) =>
        StateFolder.Find(asked, name => name switch { "CURSIVA_STATE" => own, "STATE_DIRECTORY" => systemd, "XDG_STATE_HOME" => xdg, "HOME" => "/home/me", _ => null }).Root.ShouldBe(expected);

    [Theory]
    [InlineData("/asked", "/asked")]
    [InlineData("postgresql://jobs@db.example/cursiva?password=env:DATABASE", "postgresql://jobs@db.example/cursiva?password=env:DATABASE")]
    public void A_state_is_named_such_that_a_command_elsewhere_finds_it(string asked, string name) =>
        StateFolder.Find(asked, variable => variable == "HOME" ? "/home/me" : null).Name.ShouldBe(name);

    private SecretSources Sources(string? value)
    {
        var services = _fixture.Services(new HttpClientHandler());
        return new(name => name == "NAME" ? value : null, _folder.Path, services.Store, services.Redactor, _ => { });
    }
}

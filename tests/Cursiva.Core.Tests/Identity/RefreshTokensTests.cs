using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Identity;

/// <summary>A refresh token is known by its digest alone, whoever reads it from wherever: what was spent once is never sent again.</summary>
public sealed class RefreshTokensTests : IAsyncDisposable
{
    private readonly SignInFixture _fixture = new();
    private readonly List<string> _sent = [];

    public async ValueTask DisposeAsync() => await _fixture.DisposeAsync();

    [Theory]
    [InlineData("app", "env:SEED")]
    [InlineData("renamed", "env:SEED")]
    [InlineData("app", "env:OTHER")]
    [InlineData("app", "file:seed.txt")]
    [InlineData("app", "kept:elsewhere")]
    public async Task A_seed_that_was_spent_is_not_sent_again_and_its_successor_is_used(string name, string source)
    {
        var services = Rotating();
        _fixture.Variables["SEED"] = _fixture.Variables["OTHER"] = "refresh-0";
        await File.WriteAllTextAsync(Path.Combine(_fixture.Folder, "seed.txt"), "refresh-0");
        File.SetUnixFileMode(Path.Combine(_fixture.Folder, "seed.txt"), UnixFileMode.UserRead | UnixFileMode.UserWrite);
        await services.Store.KeepAsync("elsewhere", "refresh-0", null, default);
        await GetAsync(services, "app", "env:SEED");
        await GetAsync(services, name, source);
        await GetAsync(services, "app", "env:SEED");
        _sent.ShouldBe(["refresh-0", "refresh-1", "refresh-2"]);
    }

    [Fact]
    public async Task A_seed_that_was_taken_from_the_store_is_known_outside_of_it()
    {
        var services = Rotating();
        await services.Store.KeepAsync("shared", "refresh-0", null, default);
        _fixture.Variables["SEED"] = "refresh-0";
        await GetAsync(services, "app", "kept:shared");
        await GetAsync(services, "other", "env:SEED");
        _sent.ShouldBe(["refresh-0", "refresh-1"]);
        (await services.Store.ReadAsync("shared", default)).ShouldBe("refresh-2");
    }

    [Fact]
    public async Task A_spent_seed_whose_successor_is_gone_is_refused_here_and_not_by_the_server()
    {
        var services = Rotating();
        await services.Store.KeepAsync("shared", "refresh-0", null, default);
        _fixture.Variables["SEED"] = "refresh-0";
        await GetAsync(services, "app", "kept:shared");
        await services.Store.DropAsync("shared", default);
        var refusal = await RefusedAsync(services, "app", "env:SEED");
        refusal.What.ShouldContain("was already replaced by the server and is not sent again");
        refusal.NextStep.ShouldBe("sign in once more at the refresh token's origin, then set the environment variable SEED");

        // A copy of the spent one that somebody restored is known, too.
        await services.Store.KeepAsync("shared", "refresh-0", null, default);
        (await RefusedAsync(services, "app", "kept:shared")).What.ShouldContain("is not sent again");
        _sent.ShouldBe(["refresh-0"]);
    }

    [Fact]
    public async Task A_token_that_the_server_does_not_replace_can_be_given_again()
    {
        var services = Services(_ => """{"access_token":"a"}""");
        _fixture.Variables["SEED"] = "refresh-0";
        await GetAsync(services, "app", "env:SEED");
        var kept = (await services.Store.ListAsync(default)).ShouldHaveSingleItem().Name;
        await services.Store.DropAsync(kept, default);
        await GetAsync(services, "app", "env:SEED");
        await services.Store.DropAsync(kept, default);
        await services.Store.KeepAsync("by-hand", "refresh-0", null, default);
        await GetAsync(services, "app", "kept:by-hand");
        _sent.ShouldBe(["refresh-0", "refresh-0", "refresh-0"]);
    }

    [Theory]
    [InlineData("the refresh token was used already")]
    [InlineData("the refresh token was revoked")]
    [InlineData("")]
    public async Task A_lost_token_is_tried_once_more_and_then_never_again(string words)
    {
        var services = Services(_ => $$"""{"error":"invalid_grant","error_description":"{{words}}"}""");
        await services.Store.KeepAsync("r", "refresh-0", null, default);
        var tokens = new RefreshTokens(Identity("app", "kept:r"), services);
        await using (await tokens.TurnAsync(default))
            await tokens.MarkAsync("refresh-0", default);
        (await RefusedAsync(services, "app", "kept:r")).Cause.ShouldBe(RefreshRefusals.CutShortCause);
        for (var i = 0; i < 3; i++)
        {
            var again = await RefusedAsync(services, "app", "kept:r");
            again.What.ShouldContain("is lost and is not sent again");
            again.Cause.ShouldBe(RefreshRefusals.CutShortCause);
        }

        _sent.ShouldBe(["refresh-0"]);

        // A new one under the same name is another token.
        await services.Store.KeepAsync("r", "refresh-new", null, default);
        await RefusedAsync(services, "app", "kept:r");
        _sent.ShouldBe(["refresh-0", "refresh-new"]);
    }

    [Fact]
    public async Task What_was_revoked_from_here_is_told_as_that_until_somebody_signs_in()
    {
        var services = Rotating();
        _fixture.Variables["SEED"] = "refresh-0";
        await GetAsync(services, "app", "env:SEED");
        var identity = Identity("app", "env:SEED");
        (await new TokenDesk(identity, services).RevokeAsync(default)).Count.ShouldBe(2);
        (await RefusedAsync(services, "app", "env:SEED")).What.ShouldContain("was revoked with 'cursiva token revoke' at 20");
        _fixture.Variables.Remove("SEED");
        (await RefusedAsync(services, "app", "env:SEED")).What.ShouldContain("was revoked with 'cursiva token revoke' at 20");
        _fixture.Variables["SEED"] = "refresh-0";
        var tokens = new RefreshTokens(identity, services);
        await using (await tokens.TurnAsync(default))
            await tokens.KeepAsync("signed-in", default);
        _sent.Clear();
        await GetAsync(services, "app", "env:SEED");
        _sent.ShouldBe(["signed-in"]);
    }

    [Fact]
    public async Task The_notes_about_tokens_do_not_grow_with_the_renewals()
    {
        var services = Rotating();
        _fixture.Variables["SEED"] = "refresh-0";
        for (var i = 0; i < 20; i++)
            await GetAsync(services, "app", "env:SEED");
        (await _fixture.State.ListAsync("refresh-fate", "", default)).Count.ShouldBe(1);
        (await _fixture.State.ListAsync("refresh-own", "", default)).Count.ShouldBe(1);
    }

    private SignInServices Rotating() => Services(number => $$"""{"access_token":"a{{number}}","refresh_token":"refresh-{{number}}"}""");

    private SignInServices Services(Func<int, string> answer)
    {
        FakeServer server = null!;
        server = new FakeServer((request, number) =>
        {
            if (request.RequestUri!.AbsolutePath == "/revoke")
                return FakeServer.Json("{}");
            _sent.Add(server.Bodies[^1].Split("refresh_token=")[^1].Split('&')[0]);
            var body = answer(_sent.Count);
            return FakeServer.Json(body, body.Contains("\"error\"") ? 400 : 200);
        });
        return _fixture.Services(server);
    }

    private static DeclaredIdentity Identity(string name, string source) => SignInFixture.Identity(Grants.RefreshToken) with
    {
        Name = name,
        RefreshToken = SecretSource.TryParse(source),
        Scope = [],
        RevocationEndpoint = new Uri("https://login.example/revoke"),
    };

    private static async Task GetAsync(SignInServices services, string name, string source)
    {
        using var tokens = new TokenSource(Identity(name, source), services);
        await tokens.GetFreshAsync(default);
    }

    private static async Task<Refusal> RefusedAsync(SignInServices services, string name, string source)
    {
        using var tokens = new TokenSource(Identity(name, source), services);
        return (await Should.ThrowAsync<RefusedException>(() => tokens.GetFreshAsync(default))).Refusal;
    }
}

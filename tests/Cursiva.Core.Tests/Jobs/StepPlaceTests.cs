using System.Text.RegularExpressions;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Tests.Jobs;

/// <summary>The steps of refusals name what the job itself has: its identity, its secret, its certificate.</summary>
public sealed partial class StepPlaceTests
{
    private static readonly DeclaredIdentity s_identity = new("clerk", new Place("job"), Grants.ClientCredentials)
    {
        Secrets = [new(SecretSource.Kept, "exchange", null)],
        Password = new(SecretSource.Kept, "clerk-password", null),
        Key = new DeclaredKey(new(SecretSource.File, "app.p12", null), null, new(SecretSource.Environment, "PASSWORD", null), null),
    };

    [Fact]
    public void Every_command_of_the_catalogue_is_whole()
    {
        var commands = Catalogue.Entries.SelectMany(entry => Commands().Matches(StepPlace.Of(entry.NextStep, s_identity, null)!).Select(match => match.Value.Trim())).Distinct().Order().ToList();
        commands.ShouldBe(
        [
            "cursiva cert create",
            "cursiva cert show app.p12 --password env:PASSWORD",
            "cursiva secret keep api-key",
            "cursiva secret keep clerk-password",
            "cursiva secret keep exchange",
            "cursiva sign-in JOB clerk",
            "cursiva token read --job JOB",
        ], "each of these is run by a test that provokes its message; a new one wants one, too");
    }

    [Theory]
    [InlineData("kept:exchange", "cursiva secret keep exchange")]
    [InlineData("env:SECRET", "set the environment variable SECRET")]
    [InlineData("file:secret.txt", "write the file secret.txt")]
    [InlineData("systemd:exchange", "encrypt the credential exchange again with systemd-creds")]
    public void A_secret_is_kept_again_where_the_job_looks_for_it(string source, string step) =>
        StepPlace.Of("store it again: cursiva secret keep NAME", s_identity with { Secrets = [SecretSource.TryParse(source)!] }, null).ShouldBe($"store it again: {step}");

    [Theory]
    [InlineData(Grants.AuthorizationCode, false, "sign in once more: cursiva sign-in JOB clerk; then the rest")]
    [InlineData(Grants.RefreshToken, true, "sign in once more: cursiva sign-in JOB clerk; then the rest")]
    [InlineData(Grants.RefreshToken, false, "sign in once more at the refresh token's origin, then cursiva secret keep seed; then the rest")]
    [InlineData(Grants.Password, true, "use a grant with a person behind it: authorization_code, then cursiva sign-in JOB clerk; then the rest")]
    public void A_sign_in_is_told_where_a_person_can_sign_in(string grant, bool issuer, string step) =>
        StepPlace.Of("sign in once more: cursiva sign-in JOB IDENTITY; then the rest", s_identity with { Grant = grant, Issuer = issuer ? new Uri("https://login.example") : null, RefreshToken = new(SecretSource.Kept, "seed", null) }, null).ShouldBe(step);

    [GeneratedRegex(@"cursiva (?:secret keep|cert show|cert create|sign-in|token read|[a-z]+)(?: --[a-z-]+| [A-Z]+\b| clerk(?:-password)?\b| exchange\b| api-key\b| app\.p12\b| env:PASSWORD\b)*")]
    private static partial Regex Commands();
}

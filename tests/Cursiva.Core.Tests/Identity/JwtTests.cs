using System.Text;
using CsCheck;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Identity;

public sealed class JwtTests
{
    private static readonly DateTimeOffset s_now = new(2026, 3, 2, 12, 0, 0, TimeSpan.Zero);

    [Fact]
    public void Any_text_is_read_or_refused_without_an_error() =>
        Gen.String[Gen.Char["eyJ.-_=AZaz09{}\":,[] \n\0\u00e9"], 0, 120].Sample(text => Jwt.TryRead(text)?.Signed.ShouldNotBeEmpty());

    [Fact]
    public void Any_bytes_as_header_and_claims_are_read_or_refused_and_can_be_explained() =>
        Gen.Select(Gen.Byte.Array[0, 60], Gen.Int[0, Hostile.Length - 1].Select(place => Hostile[place])).Sample((bytes, claims) =>
        {
            foreach (var part in new[] { bytes, Encoding.UTF8.GetBytes(claims) })
            {
                if (Jwt.TryRead($"{Write("{\"alg\":\"RS256\"}"u8)}.{Write(part)}.") is { } token)
                    TokenReading.Of(token, null, "", SignInFixture.Identity() with { Permissions = ["a"], Claims = new Dictionary<string, string> { ["aud"] = "b" } }, null, TimeZoneInfo.Utc, s_now).Lines.ShouldNotBeEmpty();
            }
        });

    [Theory]
    [InlineData("")]
    [InlineData("..")]
    [InlineData("a.b")]
    [InlineData("a.b.c.d")]
    [InlineData("W10.e30.")] // a header that is a list
    [InlineData("e30.IjEi.")] // claims that are a text
    [InlineData("e30.e30.?")]
    public void What_is_no_token_is_refused(string text) => Jwt.TryRead(text).ShouldBeNull();

    [Fact]
    public void Deep_nesting_does_not_cost_the_stack() =>
        Jwt.TryRead($"e30.{Write(Encoding.UTF8.GetBytes("{\"a\":" + new string('[', 100_000) + new string(']', 100_000) + "}"))}.").ShouldBeNull();

    [Theory]
    [InlineData("""{"sub":"app","client_id":"app"}""", false)]
    [InlineData("""{"sub":"p-1","client_id":"app"}""", true)]
    [InlineData("""{"sub":"p-1","azp":"app","idtyp":"app"}""", false)]
    [InlineData("""{"sub":"app","client_id":"app","auth_time":1}""", true)]
    [InlineData("""{"sub":"p-1"}""", null)]
    public void A_persons_token_is_told_from_an_applications(string claims, bool? persons) => TokenNature.Of(Token(claims)).ShouldBe(persons);

    [Fact]
    public void Times_are_told_in_the_zone_and_from_now()
    {
        var reading = TokenReading.Of(Token($$"""{"exp":{{s_now.AddMinutes(52).ToUnixTimeSeconds()}},"iat":1e300,"nbf":-5}"""), null, "x", null, null, TimeZoneInfo.FindSystemTimeZoneById("Europe/Oslo"), s_now);
        reading.Lines.Single(line => line.Claim == "exp").Value.ShouldBe("2026-03-02 13:52:00 +01:00, in 52 min 00 s");
        reading.Lines.Single(line => line.Claim == "iat").Value.ShouldBe("1e300");
        reading.Validity.ShouldContain("52 min");
        TokenReading.Of(Token("""{"exp":1}"""), null, "x", null, null, TimeZoneInfo.Utc, s_now).Holds.ShouldBeFalse();
    }

    private static Jwt Token(string claims) => Jwt.TryRead($"e30.{Write(Encoding.UTF8.GetBytes(claims))}.")!;

    private static string Write(ReadOnlySpan<byte> bytes) => Convert.ToBase64String(bytes).TrimEnd('=').Replace('+', '-').Replace('/', '_');

    private static readonly string[] Hostile =
    [
        """{"exp":"tomorrow","iat":null,"nbf":[1],"aud":{"a":1},"scope":5,"roles":[1,null,{"a":[]}],"sub":[],"client_id":7}""",
        """{"exp":99999999999999999999,"iat":-1,"aud":[],"aud":"twice","scope":"a  b"}""",
        """{"a":"[red]markup[/] \u001b[31m","":""}""",
        "[]", "1", "\"x\"", "",
    ];
}

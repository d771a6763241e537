using CsCheck;
using Cursiva.Core.Http;

namespace Cursiva.Core.Tests.Http;

public sealed class ChallengeTests
{
    [Fact]
    public void Several_challenges_with_quotes_commas_and_credentials_are_read_apart()
    {
        var read = Challenge.Read("Negotiate abc/+==, Basic realm=\"a, \\\"b\\\" = c\", Bearer error=invalid_token , error_description=\"gone, sorry\",scope=\"a b\"");
        read.Select(challenge => challenge.Scheme).ShouldBe(["Negotiate", "Basic", "Bearer"]);
        read[1].Parameters["realm"].ShouldBe("a, \"b\" = c");
        read[2].Parameters["error"].ShouldBe("invalid_token");
        read[2].Parameters["error_description"].ShouldBe("gone, sorry");
        read[2].Parameters["scope"].ShouldBe("a b");
    }

    [Theory]
    [InlineData("Bearer", 1)]
    [InlineData("", 0)]
    [InlineData(",,, ,", 0)]
    [InlineData("Bearer error=\"never closed", 1)]
    [InlineData("Bearer error=", 1)]
    [InlineData("=x", 1)]
    public void What_is_no_challenge_is_passed_over(string header, int challenges) => Challenge.Read(header).Count.ShouldBe(challenges);

    [Fact]
    public void Any_header_is_read_without_an_error() =>
        Gen.String[Gen.Char["Bearer =\",\\/+; \t\u00e9\0abc123"], 0, 80].Sample(header => Challenge.Read(header).Count.ShouldBeLessThanOrEqualTo(header.Length));

    [Fact]
    public void What_is_written_by_the_rules_is_read_back()
    {
        var token = Gen.String[Gen.Char["abcXYZ019-_"], 1, 8];
        var value = Gen.String[Gen.Char[" abc,=\"\\/:\u00e9"], 0, 12];
        var parameters = Gen.Dictionary(token.Select(name => name.ToLowerInvariant()), value)[1, 4];
        Gen.Select(token, parameters).List[1, 3].Sample(challenges =>
        {
            var header = string.Join(", ", challenges.Select(challenge => challenge.Item1 + " " + string.Join(", ", challenge.Item2.Select(pair => $"{pair.Key}=\"{pair.Value.Replace("\\", "\\\\").Replace("\"", "\\\"")}\""))));
            var read = Challenge.Read(header);
            read.Select(challenge => challenge.Scheme).ShouldBe(challenges.Select(challenge => challenge.Item1));
            for (var i = 0; i < read.Count; i++)
                read[i].Parameters.ShouldBe(challenges[i].Item2, ignoreOrder: true);
        });
    }
}

using Cursiva.Core.Identity;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Tests.Identity;

public sealed class PastedTokenTests
{
    [Theory]
    [InlineData("eyJhbGciOi.e30.c2ln")]
    [InlineData("Bearer eyJhbGciOi.e30.c2ln")]
    [InlineData("Authorization: Bearer eyJhbGciOi.e30.c2ln")]
    [InlineData("'Authorization: bearer eyJhbGciOi.e30.c2ln'")]
    [InlineData("\"eyJhbGciOi.e30.c2ln\",")]
    [InlineData("  eyJhbG\n  ciOi.e30\r\n.c2ln  ")]
    [InlineData("`eyJhbGciOi.e30.c2ln`")]
    [InlineData("""{"access_token":"eyJhbGciOi.e30.c2ln","token_type":"Bearer"}""")]
    public void A_token_is_found_in_what_people_paste(string pasted) => PastedToken.Read(pasted).ShouldBe("eyJhbGciOi.e30.c2ln");

    [Theory]
    [InlineData("""{"refresh_token":"x"}""")]
    [InlineData("curl -H 'Authorization: Bearer eyJ' https://api.example")]
    [InlineData("é")]
    public void What_is_no_token_is_refused_and_goes_nowhere(string pasted) =>
        Should.Throw<RefusedException>(() => PastedToken.Read(pasted)).Refusal.NextStep!.ShouldContain("sent nowhere");

    [Theory]
    [InlineData("http://127.0.0.1:4711/x?code=abc&state=s")]
    [InlineData(" \"http://127.0.0.1:4711/x?code=a\n  bc&sta\r\nte=s\" \n")]
    [InlineData("<http://127.0.0.1:4711/x?code=abc&state=s>")]
    public void A_pasted_answer_may_be_wrapped_and_quoted(string pasted) => PersonAnswer.Read(pasted, "s", null, false).Code.ShouldBe("abc");
}

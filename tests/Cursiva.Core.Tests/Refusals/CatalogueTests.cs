using Cursiva.Core.Refusals;

namespace Cursiva.Core.Tests.Refusals;

public sealed class CatalogueTests
{
    [Theory]
    [InlineData(Desk.SignIn, 401, "invalid_client", "wrong or has expired")]
    [InlineData(Desk.SignIn, 400, "invalid_scope", "scope")]
    [InlineData(Desk.SignIn, 400, "never_heard_of", "refused the sign-in")]
    [InlineData(Desk.Api, 401, null, "audience or scope")]
    [InlineData(Desk.Api, 403, null, "lacks a permission")]
    [InlineData(Desk.Api, 404, null, "nothing at this address")]
    [InlineData(Desk.Api, 418, null, "refused the request")]
    public void The_closest_diagnosis_comes_first(Desk desk, int status, string? error, string cause) =>
        Catalogue.Refuse(new Facts(desk, Trouble.Status, status, error), "x").Cause!.ShouldContain(cause);

    [Fact]
    public void Every_trouble_at_every_desk_is_explained_with_a_next_step()
    {
        foreach (var desk in Enum.GetValues<Desk>())
        {
            foreach (var trouble in Enum.GetValues<Trouble>())
                Catalogue.Refuse(new Facts(desk, trouble, 599), "x").NextStep.ShouldNotBeNullOrEmpty($"{desk} {trouble}");
        }
    }

    [Fact]
    public void No_entry_is_hidden_behind_another_that_asks_for_the_same() =>
        Catalogue.Entries.Select(entry => $"{entry.Desk}/{entry.Trouble}/{string.Join(',', entry.Statuses)}/{string.Join(',', entry.Errors)}/{entry.Says?.That}/{entry.When}").ShouldBeUnique();

    [Fact]
    public void Every_entry_has_a_name_of_its_own() => Catalogue.Entries.Select(entry => entry.Id).ShouldBeUnique();

    [Fact]
    public void Other_causes_that_fit_are_told_too()
    {
        var facts = new Facts(Desk.SignIn, Trouble.Status, 401, "invalid_client") { Words = "the client secret has expired", Circumstances = Circumstances.WhiteSpaceInSecret, Details = ["a space at its end"] };
        var refusal = Catalogue.Refuse(facts, "x");
        refusal.Cause.ShouldBe("the client secret has expired", "what the answer says counts more than what is seen here, and what is seen here does not belong to it");
        refusal.Others.ShouldContain(other => other.Contains("white space"));

        Catalogue.Refuse(facts with { Words = "the client secret is wrong" }, "x").Cause.ShouldBe("the secret has white space or a line break, probably copied along (a space at its end)");
    }

    [Fact]
    public void A_link_in_the_answer_is_quoted_in_the_next_step() =>
        Catalogue.Refuse(new Facts(Desk.Api, Trouble.Status, 403) { Words = "the API has not been enabled: visit https://console.example/enable?x=1." }, "x")
            .NextStep.ShouldBe("ask for it to be enabled: https://console.example/enable?x=1");
}

using System.Text;

namespace Cursiva.Core.Refusals;

/// <summary>The page of refusals, in Markdown; made from <see cref="Catalogue"/>.</summary>
public static class RefusalsPage
{
    /// <summary>The page about refusals, in Markdown.</summary>
    public static string Write()
    {
        var page = new StringBuilder("""
            # What refusals mean, and what to do next

            When something is refused, Cursiva quotes the other side's own words and names the likely cause and the next step. Both come
            from this list, which is generated from the program's own data; a test keeps them in step. The words and codes of the answer come
            first, then what Cursiva can prove from its own side (an expired certificate, clocks that differ, white space in a
            secret), then the usual meaning of the code or status. The message also names up to two other possible causes.


            """);
        Part(page, "From the authorization server", Catalogue.Entries.Where(entry => entry.Desk == Desk.SignIn));
        Part(page, "From an API", Catalogue.Entries.Where(entry => entry.Desk == Desk.Api));
        Part(page, "From the network", Catalogue.Entries.Where(entry => entry.Desk is null));
        return page.ToString().TrimEnd('\n') + "\n";
    }

    private static void Part(StringBuilder page, string title, IEnumerable<Diagnosis> entries)
    {
        page.Append($"## {title}\n\n| name | seen | likely cause | next step |\n|---|---|---|---|\n");
        foreach (var entry in entries)
            page.Append($"| {entry.Id} | {Cell(Seen(entry))} | {Cell(entry.Cause)} | {Cell(entry.NextStep)} |\n");
        page.Append('\n');
    }

    private static string Seen(Diagnosis entry)
    {
        var parts = new List<string>();
        if (entry.Trouble != Trouble.Status)
            parts.Add(Describe(entry.Trouble));
        if (entry.Statuses.Count > 0)
            parts.Add("status " + string.Join(", ", entry.Statuses));
        if (entry.Errors.Count > 0)
            parts.Add(string.Join(", ", entry.Errors.Select(error => $"`{error}`")));
        if (entry.Says is { } says)
            parts.Add($"words that say: {says.That}");
        if (entry.When != Circumstances.None)
            parts.Add(string.Join(" and ", Each(entry.When)));
        if (entry.Never != Circumstances.None)
            parts.Add("unless " + string.Join(" or ", Each(entry.Never)));
        return parts.Count == 0 ? "any other refusal" : string.Join("; ", parts);
    }

    private static string Describe(Trouble trouble) => trouble switch
    {
        Trouble.Unreachable => "no connection",
        Trouble.Tls => "the certificate is not trusted",
        Trouble.Silent => "no answer in time",
        Trouble.CutOff => "the connection broke",
        Trouble.Html => "a web page",
        Trouble.NotUnderstood => "unexpected content",
        Trouble.Redirect => "a redirect",
        Trouble.Status => "an error status",
    };

    private static string Describe(Circumstances one) => one switch
    {
        Circumstances.WhiteSpaceInId => "the client id has white space",
        Circumstances.WhiteSpaceInSecret => "the secret has white space",
        Circumstances.SecretLooksLikeId => "the secret looks like an id",
        Circumstances.ClocksDiffer => "the clocks differ",
        Circumstances.CutShort => "an earlier process was interrupted",
        Circumstances.Refreshing => "a refresh token was sent",
        Circumstances.Redeeming => "an authorization code was sent",
        Circumstances.Polling => "a device code was sent",
        Circumstances.Asserting => "an assertion was sent",
        Circumstances.PersonsToken => "the token is a person's",
        Circumstances.ApplicationsToken => "the token is an application's",
        Circumstances.OtherAudience => "the token's audience is not the one in claims:",
        Circumstances.PermissionMissing => "the token lacks something in permissions:",
        Circumstances.Anonymous => "no token was sent",
        Circumstances.Proxied => "the environment names a proxy",
        Circumstances.PasswordSent => "a person's name and password were sent",
        Circumstances.FixedKey => "a fixed key was sent",
        Circumstances.ApplicationAlone => "the application signs in by itself",
        Circumstances.OtherScheme => "the challenge names another scheme",
        Circumstances.OtherProof => "the server names another client authentication",
        Circumstances.None => "nothing else is known",
    };

    private static IEnumerable<string> Each(Circumstances some) =>
        Enum.GetValues<Circumstances>().Where(one => one != Circumstances.None && (some & one) == one).Select(Describe);

    private static string Cell(string text) => text.Replace("|", "\\|");
}

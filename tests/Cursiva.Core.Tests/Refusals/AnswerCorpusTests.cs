using System.Text.Json;
using Cursiva.Core.Http;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Tests.Refusals;

/// <summary>The whole catalogue against answers in the manner of many servers, near misses among them.</summary>
public sealed class AnswerCorpusTests
{
    [Fact]
    public void Every_answer_is_named_correctly() => string.Join("\n", Wrong("answers.txt")).ShouldBeEmpty();

    /// <summary>Answers for which no entry was written or changed: what is to be expected of servers that nobody has seen.</summary>
    [Fact]
    public void Most_answers_that_no_entry_was_written_for_are_named_correctly()
    {
        var wrong = Wrong("unseen.txt");
        wrong.Count.ShouldBeLessThanOrEqualTo(Lines("unseen.txt").Count() / 20, string.Join("\n", wrong));
    }

    [Fact]
    public void The_corpus_is_as_large_as_it_is_said_to_be_and_has_every_entry_that_needs_words()
    {
        Lines("answers.txt").Concat(Lines("unseen.txt")).Count().ShouldBeGreaterThanOrEqualTo(400);
        var named = Lines("answers.txt").Concat(Lines("unseen.txt")).Select(line => line.Cause).ToHashSet();
        Catalogue.Entries.Where(entry => entry.Says is not null && entry.Trouble == Trouble.Status && !named.Contains(Base(entry.Id))).Select(entry => entry.Id).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("client ")]
    [InlineData("the client is was has been the account is was ")]
    [InlineData("no no no key key not not ")]
    [InlineData("{[<")]
    [InlineData("a.b-c_D")]
    public void An_answer_that_is_made_to_be_hard_to_read_is_explained_all_the_same(string part)
    {
        var facts = new Facts(Desk.SignIn, Trouble.Status, 401, "invalid_client") { Words = string.Concat(Enumerable.Repeat(part, 8000 / part.Length)), Circumstances = Circumstances.Asserting | Circumstances.PasswordSent };
        Catalogue.Explain(facts).ShouldNotBeEmpty();
        Catalogue.Explain(facts with { Desk = Desk.Api, Status = 403 }).ShouldNotBeEmpty();
    }

    private static List<string> Wrong(string file)
    {
        var wrong = new List<string>();
        foreach (var line in Lines(file))
        {
            var found = Catalogue.Explain(line.Facts) is [var first, ..] ? Base(first.Id) : "none";
            if (found != line.Cause)
                wrong.Add($"{file}: {found} in place of {line.Cause}: {line.Text}");
        }

        return wrong;
    }

    // Entries that tell one cause by other evidence.
    private static string Base(string id) => id.Replace("-unsaid", "").Replace("-said", "").Replace("-code", "").Replace("-status", "").Replace("-by-challenge", "").Replace("-words", "").Replace("key-refused", "key-wrong");

    private static IEnumerable<(string Cause, Facts Facts, string Text)> Lines(string file) =>
        File.ReadLines(Path.Combine(Repository.Root, "tests", "Cursiva.Core.Tests", "Refusals", file)).Where(line => line.Length > 0 && line[0] != '#').Select(Read);

    private static (string Cause, Facts Facts, string Text) Read(string line)
    {
        var parts = line.Split('\t');
        var (desk, status) = (parts[1][0] == 'S' ? Desk.SignIn : Desk.Api, int.Parse(parts[1][2..]));
        var circumstances = parts[2].Aggregate(Circumstances.None, (all, flag) => all | Of(flag));
        var answer = parts.ElementAtOrDefault(3) ?? "";
        string? error = null;
        if (answer.StartsWith("WWW-Authenticate: ", StringComparison.Ordinal))
        {
            answer = answer["WWW-Authenticate: ".Length..];
            var challenges = Challenge.Read(answer).ToList();
            error = challenges.Select(challenge => challenge.Parameters.GetValueOrDefault("error")).FirstOrDefault(code => code is not null);
            if (!challenges.Exists(challenge => challenge.Scheme.Equals("Bearer", StringComparison.OrdinalIgnoreCase)))
                circumstances |= Circumstances.OtherScheme;
        }
        else if (desk == Desk.SignIn && answer.StartsWith('{'))
        {
            using var document = JsonDocument.Parse(answer);
            error = document.RootElement.TryGetProperty("error", out var code) && code.ValueKind == JsonValueKind.String ? code.GetString() : null;
        }

        return (parts[0], new Facts(desk, status == 200 ? Trouble.Html : Trouble.Status, status, error) { Words = answer, Circumstances = circumstances }, line);
    }

    private static Circumstances Of(char flag) => flag switch
    {
        's' => Circumstances.ApplicationAlone,
        'W' => Circumstances.WhiteSpaceInSecret,
        'I' => Circumstances.SecretLooksLikeId,
        'K' => Circumstances.ClocksDiffer,
        'X' => Circumstances.CutShort,
        'R' => Circumstances.Refreshing,
        'D' => Circumstances.Redeeming,
        'O' => Circumstances.Polling,
        'A' => Circumstances.Asserting,
        'P' => Circumstances.PasswordSent,
        'p' => Circumstances.PersonsToken,
        'a' => Circumstances.ApplicationsToken,
        'u' => Circumstances.OtherAudience,
        'm' => Circumstances.PermissionMissing,
        'n' => Circumstances.Anonymous,
        'f' => Circumstances.FixedKey,
        _ => throw new ArgumentOutOfRangeException(nameof(flag), flag, "no such circumstance"),
    };
}

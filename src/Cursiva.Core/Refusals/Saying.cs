using System.Text.RegularExpressions;

namespace Cursiva.Core.Refusals;

/// <summary>Something that an answer may say, in any of several ways.</summary>
/// <param name="That">What it says, for people: "the secret has expired".</param>
/// <param name="Ways">
/// Regular expressions over <see cref="AnswerWords"/>, whole words each; <c>~</c> stands for a few words of the same sentence, and
/// <c>&lt;ended&gt;</c> and its like for the many ways to say one thing, see <see cref="Synonyms"/>. Two words far apart say nothing
/// together, so
/// single words are rare.
/// </param>
public sealed record Saying(string That, params string[] Ways)
{
    // An answer is from outside: one that is made to be hard to read says nothing.
    private static readonly TimeSpan s_patience = TimeSpan.FromMilliseconds(100);

    private readonly Lazy<Regex> _said = new(
        () => new Regex(
            $@"(?<![\p{{L}}\p{{Nd}}])(?:{Synonyms.In(string.Join('|', Ways)).Replace("~", "(?: [^.]{0,60}?)? ?")})(?![\p{{L}}\p{{Nd}}])",
            RegexOptions.CultureInvariant,
            s_patience));

    /// <summary>What takes the saying back: with it, the answer speaks of something else.</summary>
    public Saying? Unless { get; init; }

    /// <summary>Whether an answer says it.</summary>
    /// <param name="words">See <see cref="AnswerWords"/>.</param>
    public bool IsIn(string words)
    {
        try
        {
            return _said.Value.IsMatch(words) && Unless?.IsIn(words) != true;
        }
        catch (RegexMatchTimeoutException)
        {
            return false;
        }
    }
}

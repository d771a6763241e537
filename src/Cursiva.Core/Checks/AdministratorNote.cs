using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Checks;

/// <summary>
/// One paragraph for each identity that an administrator of the other side can help, in words that can be sent on as they are: who the
/// application is, what it was refused, what is asked for, and where.
/// </summary>
internal static class AdministratorNote
{
    /// <summary>The paragraphs; null when there is nothing to ask for.</summary>
    public static string? Of(Job job, IReadOnlyList<LiveLine> lines)
    {
        var paragraphs = job.Identities.Values.Select(identity => Paragraph(job, identity, lines)).OfType<string>().ToList();
        return paragraphs.Count == 0 ? null : string.Join("\n\n", paragraphs);
    }

    private static string? Paragraph(Job job, DeclaredIdentity identity, IReadOnlyList<LiveLine> lines)
    {
        var own = lines.Where(line => line.Verdict == LiveVerdict.Failed && IsOf(job, identity, line)).ToList();
        var refusals = own.Where(line => line.Refusal is { } refusal && Remedies.IsAdministrators(refusal)).ToList();
        List<string> missing = [.. own.Select(line => line.Lacks)
            .Concat(
                refusals.Where(line => Remedies.IsPermission(line.Refusal!)).SelectMany(
                    line => (line.Refusal!.WantedScope ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries)))
            .OfType<string>()
            .Distinct(StringComparer.Ordinal)];
        if (refusals.Count == 0 && missing.Count == 0)
            return null;

        // Nothing in the token tells what a refused sign-in lacks: all that the job declares is asked for.
        if (missing.Count == 0 && refusals.Exists(line => Remedies.IsPermission(line.Refusal!)))
            missing = identity.Permissions.Count > 0 ? [.. identity.Permissions] : [.. identity.Scope];

        var sentences = new List<string> { $"{Application(identity)} {Where(identity)}." };
        sentences.AddRange(refusals.Select(line => Told(job, line)).Distinct());
        if (missing.Count > 0)
            sentences.Add(
                $"Please grant it {(missing.Count == 1 ? "this permission" : "these permissions")} {Whose(identity)}, and give consent if it is needed: {string.Join(", ", missing)}.");
        else if (refusals.Exists(line => Remedies.IsPermission(line.Refusal!)))
            sentences.Add($"Please grant it what these requests require {Whose(identity)}, and give consent if it is needed.");
        sentences.AddRange(
            refusals.Where(line => !Remedies.IsPermission(line.Refusal!))
                .Select(line => $"Please look into this: {line.Refusal!.Cause}.")
                .Distinct());
        if (own.Select(line => line.Refusal?.Link).OfType<string>().FirstOrDefault() is { } link)
            sentences.Add($"The server names this page for that: {link}");
        return string.Join(' ', sentences);
    }

    private static bool IsOf(Job job, DeclaredIdentity identity, LiveLine line) => line.Kind switch
    {
        "identity" => line.Name == identity.Name,
        "api" => job.Apis[line.Name].Identity == identity.Name,
        _ => job.Pulls.First(pull => pull.Name == line.Name) is var pull && (pull.Identity ?? job.Apis[pull.Api].Identity) == identity.Name,
    };

    private static string Application(DeclaredIdentity identity) =>
        identity.ClientId.Length > 0 ? $"Our application with the client id {identity.ClientId}" : $"Our application '{identity.Name}'";

    private static string Where(DeclaredIdentity identity) =>
        (identity.Issuer ?? identity.TokenEndpoint) is { } place ? $"signs in at {place.AbsoluteUri} and is refused" : "is refused";

    private static string Told(Job job, LiveLine line)
    {
        var place = line.Kind switch
        {
            "identity" => "The sign-in",
            "api" => $"The API at {job.Apis[line.Name].ShownBase}",
            _ => $"The API at {job.Apis[job.Pulls.First(pull => pull.Name == line.Name).Api].ShownBase}",
        };
        var request = line.Refusal!.Request is { } sent ? $" ({sent})" : "";
        return line.Refusal.Quote is { } quote ? $"{place} answered{request}: {quote}." : $"{place} refused{request}.";
    }

    private static string Whose(DeclaredIdentity identity) => identity.Refreshes || identity.Grant == Grants.Password
        ? "for use on behalf of the person who signs in"
        : "for its own use, without a person";
}

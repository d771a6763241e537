using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Reports;
using MimeKit;

namespace Cursiva.Core.Deliveries;

/// <summary>Composes a mail (RFC 5322) from what a run wrote, or from how it failed.</summary>
internal static class MailLetter
{
    private const string Fragment = ".fragment.html";

    /// <param name="id">The ledger's name for it, which its message id is made of: whoever gets it twice can tell.</param>
    public static MimeMessage Compose(string job, string id, MailWay way, RunNews news, IReadOnlyList<WrittenFile> files, IReadOnlyList<string> attached)
    {
        var from = MailboxAddress.Parse(way.From);
        var message = new MimeMessage
        {
            Subject = news.Refusal is null || way.Subject.Text.Length > 0 ? way.Subject.Fill(news.Names) : $"{news.Job}: run {news.Number} did not end well",
            Date = news.StartedAt,
            MessageId = $"{Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes($"{job}/{id}")))[..32]}@{from.Domain}",
        };
        message.From.Add(from);
        message.To.AddRange(way.To.Select(MailboxAddress.Parse));
        message.Headers.Add("Auto-Submitted", "auto-generated"); // RFC 3834: no holiday answers
        var body = new BodyBuilder { TextBody = Words(way, news, attached.Count) };
        if (files.FirstOrDefault(file => file.Path.EndsWith(Fragment, StringComparison.Ordinal)) is { } fragment && news.Refusal is null)
            body.HtmlBody = File.ReadAllText(fragment.Path);
        foreach (var path in attached)
            body.Attachments.Add(path);
        message.Body = body.ToMessageBody();
        return message;
    }

    /// <summary>The files that go along.</summary>
    public static IReadOnlyList<string> Attached(MailWay way, RunNews news, IReadOnlyList<WrittenFile> files)
    {
        if (way.Attach is null)
            return [.. files.Select(file => file.Path).Where(path => !path.EndsWith(Fragment, StringComparison.Ordinal))];

        // A file for each value of a column has more names than the job writes.
        return [.. files.Select(file => file.Path).Where(path => way.Attach.Any(name => Path.GetFullPath(Path.Combine(news.OutFolder, Template.TryParse(name, out _)!.Fill(news.Names))) == path))];
    }

    private static string Words(MailWay way, RunNews news, int attached)
    {
        var words = new StringBuilder();
        if (way.Text is { } text)
            words.Append(text.Fill(news.Names).TrimEnd()).Append("\n\n");
        if (news.Refusal is { } refusal)
            words.Append(Told(refusal)).Append('\n');
        words.Append(CultureInfo.InvariantCulture, $"Run {news.Number} of {news.Job}, {news.StartedAt:d MMMM yyyy, HH:mm zzz}.");
        if (attached > 0)
            words.Append(CultureInfo.InvariantCulture, $" {attached} {(attached == 1 ? "file is" : "files are")} attached.");
        return words.Append('\n').ToString();
    }

    // As the terminal tells it.
    private static string Told(Refusal refusal) => string.Concat(new (string Title, string? Text)[]
    {
        ("", refusal.What), ("request: ", refusal.Request), ("answer: ", refusal.Quote), ("cause: ", refusal.Cause), ("next: ", refusal.NextStep),
    }.Where(line => line.Text is not null).Select(line => $"{line.Title}{line.Text}\n"));
}

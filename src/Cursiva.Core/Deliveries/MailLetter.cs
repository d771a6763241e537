using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Reports;
using MimeKit;
using MimeKit.Utils;

namespace Cursiva.Core.Deliveries;

/// <summary>Composes a mail (RFC 5322) from what a run wrote, or from how it failed.</summary>
internal static class MailLetter
{
    private const string Fragment = ".fragment.html";
    private const string Picture = ".png";

    /// <param name="job">The job's name.</param>
    /// <remarks>The message id is made of the ledger's name for it: whoever gets it twice can tell.</remarks>
    public static MimeMessage Compose(string job, Parcel parcel, MailWay way, IReadOnlyList<string> to)
    {
        var (news, attached) = (parcel.News, Attached(way, parcel));
        var from = MailboxAddress.Parse(way.From);
        var message = new MimeMessage
        {
            Subject = news.Refusal is null || way.Subject.Text.Length > 0 ? way.Subject.Fill(
                parcel.Name) : $"{news.Job}: run {news.Number} failed",
            Date = news.StartedAt,
            MessageId = $"{Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes($"{job}/{parcel.Id}")))[..32]}@{from.Domain}",
        };
        message.From.Add(from);
        message.To.AddRange(to.Select(MailboxAddress.Parse));
        message.Headers.Add("Auto-Submitted", "auto-generated"); // RFC 3834: no holiday answers
        var body = new BodyBuilder { TextBody = Words(way, parcel, attached.Count) };
        var html = parcel.Files.FirstOrDefault(
            file => file.Path.EndsWith(Fragment, StringComparison.Ordinal)) is { } fragment && news.Refusal is null
            ? File.ReadAllText(fragment.Path)
            : null;
        foreach (var path in attached)
        {
            // A picture is seen in the mail itself (RFC 2387, RFC 2392) where there is a page for it.
            if (html is null || !path.EndsWith(Picture, StringComparison.Ordinal))
            {
                body.Attachments.Add(path);
                continue;
            }

            var picture = body.LinkedResources.Add(path);
            picture.ContentId = MimeUtils.GenerateMessageId(from.Domain);
            html +=
                $"<p><img src=\"cid:{picture.ContentId}\" alt=\"{HtmlText.Escape(Path.GetFileNameWithoutExtension(path))}\" style=\"max-width:100%;\"></p>\n";
        }

        body.HtmlBody = html;
        message.Body = body.ToMessageBody();
        return message;
    }

    private static IReadOnlyList<string> Attached(MailWay way, Parcel parcel)
    {
        if (way.Attach is null)
            return [.. parcel.Files.Select(file => file.Path).Where(path => !path.EndsWith(Fragment, StringComparison.Ordinal))];

        // A file for each value of a column has more names than the job writes.
        return [.. parcel.Files
            .Where(
                file => way.Attach.Any(
                    name => Template.TryParse(name, out _)!.Fill(asked => parcel.News.Names(asked) ?? file.Value ?? "") is var filled
                        && Path.GetFullPath(Path.Combine(parcel.News.OutFolder, filled)) == file.Path))
            .Select(file => file.Path)];
    }

    private static string Words(MailWay way, Parcel parcel, int attached)
    {
        var words = new StringBuilder();
        if (way.Text is { } text)
            words.Append(text.Fill(parcel.Name).TrimEnd()).Append("\n\n");
        words.Append(parcel.News.Told);
        if (attached > 0)
            words.Append(CultureInfo.InvariantCulture, $" {attached} {(attached == 1 ? "file is" : "files are")} attached.");
        return words.Append('\n').ToString();
    }
}

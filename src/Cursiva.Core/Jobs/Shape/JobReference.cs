using System.Text;

namespace Cursiva.Core.Jobs.Shape;

/// <summary>The reference page of the job file, in Markdown; made from <see cref="JobKeys"/>.</summary>
public static class JobReference
{
    /// <summary>The reference page of the job file, in Markdown.</summary>
    public static string Write()
    {
        var page = new StringBuilder("""
            # The job file, key by key

            A job is one YAML file, `NAME.cursiva.yaml`. This page and the [JSON Schema](job.schema.json) are generated from the
            list of keys that Cursiva itself reads jobs by, and a test keeps them in step.

            With the schema, editors complete and check keys. `cursiva schema > job.schema.json` prints the schema of the installed version. Name it
            at the top of a job (`"$schema": job.schema.json`), in a comment that your editor reads (`# yaml-language-server: $schema=job.schema.json`),
            or in the editor's settings for `*.cursiva.yaml`. The same schema covers files that jobs include.

            Placeholders: in any string, `{name}` is replaced by the input of that name, and `{{` is a literal brace. In `get:` the
            placeholders are those of RFC 6570, so `{?since}` adds `?since=…`. In a pull with `per:` the placeholders `{depots.id}`
            and the like are filled in for each strand, and a pull with `incremental:` has `{mark}`. Durations are a number and a unit: `250ms`,
            `30s`, `10m`, `2h`, `7d`, `2w`. Places inside JSON are JSON Pointers (RFC 6901). A secret source is `env:NAME`, `file:PATH`,
            `file:PATH#/pointer` (into a JSON file), `kept:NAME` (Cursiva's own store) or `systemd:NAME` (a service's credential).

            A value never leaves the placeholder it fills: it is encoded in a path or query, must be one label in a host and one line in a header, and
            never becomes a secret source. A value from a row cannot name a file of this machine, and can fill only one segment of a secret's
            name: `kept:tenant-{tenants.id}`, `file:secrets.json#/{tenants.id}`. See [security.md](security.md).


            """);
        Section[] sections =
        [
            JobKeys.JobSection, ScheduleKeys.Section, JobKeys.RelativeTimeSection, IdentityKeys.Section, IdentityKeys.KeySection, IdentityKeys.AssertionSection,
            EncryptionKeys.SignInSection, EncryptionKeys.SessionSection,
            ApiKeys.ApiSection, ApiKeys.LimitsSection, ApiKeys.ProbeSection,
            EncryptionKeys.BodySection, SignatureKeys.SignaturesSection, SignatureKeys.RequestsSection, SignatureKeys.AnswersSection, SignatureKeys.RowsSection,
            PullKeys.Section, PagingKeys.PagingSection, .. PagingStyles.All
                .SelectMany(style => style.Keys)
                .Select(key => key.Inside)
                .OfType<Section>(), PagingKeys.MoreSection, RowsKeys.RowsSection, PerKeys.PerSection, PerKeys.WindowSection, StrandKeys.OpensSection, StrandKeys.SkipSection, StrandKeys.FailSection,
            IncrementalKeys.IncrementalSection, IncrementalKeys.DeletedSection, ExportKeys.ExportSection, ExportKeys.FindSection, JobKeys.ColumnSection, ReportKeys.CompareSection, ReportKeys.ReportSection, ReportKeys.PartSection, ReportKeys.RequireSection, ReportKeys.CsvSection, WriteKeys.Section, WriteKeys.StepSection, DeliveryKeys.Section, DeliveryKeys.MailSection, DeliveryKeys.ToSection, DeliveryKeys.FolderSection, DeliveryKeys.SftpSection, UploadKeys.Section, UploadKeys.StepSection, DeliveryKeys.TableSection, DeliveryKeys.MessageSection, JobKeys.SharedSection,
        ];
        foreach (var section in sections)
        {
            page.Append(
                $"## {section.Name}\n\n{Sentence(section.Meaning)}\n\n| key | meaning | when missing | example |\n|---|---|---|---|\n");
            foreach (var key in section.Keys)
            {
                var choices = key.Choices.Count > 0 ? $": {string.Join(", ", key.Choices.Select(choice => $"`{choice}`"))}" : "";
                var otherwise = key.Required ? "**required**" : key.Otherwise ?? "";
                page.Append(
                    $"| `{key.Name}` | {key.Meaning}{choices} | {otherwise} | {(key.Example is null ? "" : $"`{key.Example}`")} |\n");
            }

            page.Append('\n');
        }

        return page.ToString().TrimEnd('\n') + "\n";
    }

    private static string Sentence(string text) => char.ToUpperInvariant(text[0]) + text[1..] + ".";
}

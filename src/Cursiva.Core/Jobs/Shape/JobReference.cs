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

            A job is one YAML file, `NAME.cursiva.yaml`. This page and the [JSON Schema](job.schema.json) are made from the
            same list of keys that the reader goes by, and a test holds them equal.

            Editors complete and check the keys by the schema. `cursiva schema > job.schema.json` prints the one of the installed version; name it
            at the top of a job, `"$schema": job.schema.json`, in a comment that your editor reads, `# yaml-language-server: $schema=job.schema.json`,
            or for `*.cursiva.yaml` in the editor's settings. It covers the files that jobs include, too.

            Placeholders: `{name}` is replaced by the input of that name in every string; `{{` is a brace. In `get:` the
            placeholders are those of RFC 6570, so `{?since}` adds `?since=…`. In a pull with `per:` the placeholders `{depots.id}`
            and the like are filled in for each strand, and in one with `incremental:` there is `{mark}`. Durations are a number and a unit: `250ms`,
            `30s`, `10m`, `2h`, `7d`, `2w`. Places inside JSON are JSON Pointers (RFC 6901). A secret source is `env:NAME`, `file:PATH`,
            `file:PATH#/pointer` (into a JSON file), `kept:NAME` (Cursiva's own store) or `systemd:NAME` (a service's credential).

            What is filled in stays where it is put: in a path or query it is encoded, in a host it is one label, in a header one line; and
            it never becomes a secret source. Values of rows name no file of this machine, and a secret at most by one segment of its
            name: `kept:tenant-{tenants.id}`, `file:secrets.json#/{tenants.id}`. See [security.md](security.md).


            """);
        Section[] sections =
        [
            JobKeys.JobSection, ScheduleKeys.Section, JobKeys.RelativeTimeSection, IdentityKeys.Section, IdentityKeys.KeySection, IdentityKeys.AssertionSection,
            PayloadKeys.SignInSection, PayloadKeys.SessionSection,
            JobKeys.ApiSection, JobKeys.LimitsSection, JobKeys.ProbeSection,
            PayloadKeys.BodySection, PayloadKeys.SignaturesSection, PayloadKeys.RequestsSection, PayloadKeys.AnswersSection, PayloadKeys.RowsSection,
            PullKeys.Section, PullKeys.PagingSection, .. PagingStyles.All.SelectMany(style => style.Keys).Select(key => key.Inside).OfType<Section>(), PullKeys.MoreSection, PullKeys.RowsSection, PullKeys.PerSection, PullKeys.OpensSection, PullKeys.SkipSection, PullKeys.FailSection,
            PullKeys.IncrementalSection, PullKeys.DeletedSection, PullKeys.ExportSection, PullKeys.FindSection, JobKeys.ColumnSection, ReportKeys.CompareSection, ReportKeys.ReportSection, ReportKeys.PartSection, ReportKeys.RequireSection, ReportKeys.CsvSection, WriteKeys.Section, WriteKeys.StepSection, DeliveryKeys.Section, DeliveryKeys.MailSection, DeliveryKeys.ToSection, DeliveryKeys.FolderSection, DeliveryKeys.SftpSection, UploadKeys.Section, UploadKeys.StepSection, DeliveryKeys.TableSection, DeliveryKeys.MessageSection, JobKeys.SharedSection,
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

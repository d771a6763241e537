using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Jobs;

/// <summary>Deliveries of the job file, and every mistake that can be made with them.</summary>
public sealed class DeliveryReaderTests : IDisposable
{
    private const string Head = """
        cursiva: 1
        title: Weekly
        apis: { x: { base: https://x.example } }
        pulls: { depots: { get: /, rows: "" } }
        reports:
          late: { title: "Late {{now}}", sql: select 1, write: [late.csv, late.xlsx] }
          page: { sql: select 1, write: page.html }
        deliveries:
        """;

    private const string Key = "SHA256:uNiVztksCsDhcc0u9e8BrrMBSM7P+WsFAmM2V6hOaSo";

    private const string Mail = "mail: { server: smtp.example, from: a@x.example, to: b@x.example }";

    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public void Deliveries_are_read_with_everything_they_say()
    {
        var job = Read("""
              desk:
                report: [late, page]
                when: rows
                when-in-doubt: repeat
                deliver-within: 4h
                mail: { server: "smtp.example:2525", security: tls, user: u, password: kept:mail, from: Night <n@x.example>, to: [a@x.example, B <b@x.example>], subject: "{run.number} {{x}}", text: Hello, attach: [late.xlsx] }
              share: { report: late, when: changed, folder: { path: "/mnt/{run.date}" } }
              alarm: { when: failed, mail: { server: localhost, security: none, from: a@x.example, to: b@x.example } }
            """);
        var desk = job.Deliveries[0];
        (desk.Name, desk.When, desk.RepeatsInDoubt, desk.Within).ShouldBe(("desk", DeliveryTime.Rows, true, TimeSpan.FromHours(4)));
        desk.Reports.ShouldBe(["late", "page"]);
        var mail = desk.Way.ShouldBeOfType<MailWay>();
        (mail.Host, mail.Port, mail.Security, mail.User, mail.Password!.ToString(), mail.From).ShouldBe(("smtp.example", 2525, MailSecurity.Tls, "u", "kept:mail", "Night <n@x.example>"));
        mail.To.ShouldBe(["a@x.example", "B <b@x.example>"]);
        mail.Subject.Fill(name => name == "run.number" ? "7" : null).ShouldBe("7 {x}");
        mail.Attach.ShouldBe(["late.xlsx"]);
        job.Deliveries[1].Way.ShouldBeOfType<FolderWay>().Path.Fill(_ => "2026-03-02").ShouldBe("/mnt/2026-03-02");
        job.Deliveries[1].Within.ShouldBe(Delivery.DefaultWithin);
        var alarm = job.Deliveries[2].Way.ShouldBeOfType<MailWay>();
        (alarm.Port, alarm.Attach).ShouldBe((25, null));
        (Read("  d: { report: late, " + Mail + " }").Deliveries[0].Way as MailWay)!.Subject.Fill(_ => "2026-03-02").ShouldBe("Late {now}, 2026-03-02");
    }

    [Theory]
    [InlineData("d: { report: late }", "does not say where to send")]
    [InlineData("d: { report: late, folder: { path: x }, MAIL }", "has both mail: and folder:")]
    [InlineData("d: { MAIL }", "has no 'report'")]
    [InlineData("d: { report: lat, MAIL }", "no report is named 'lat'; did you mean 'late'?")]
    [InlineData("d: { report: late, when: failed, MAIL }", "which wrote no report")]
    [InlineData("d: { when: failed, folder: { path: x } }", "has no files to send there")]
    [InlineData("d: { report: page, when: changed, MAIL }", "report 'page' has no file that contains only rows")]
    [InlineData("d: { report: late, when: sometimes, MAIL }", "unknown when 'sometimes'")]
    [InlineData("'a b': { report: late, MAIL }", "'a b' cannot name a delivery")]
    [InlineData("d: { report: late, mail: { server: smtp.example, security: none, from: a@x.example, to: b@x.example } }", "would cross the network unprotected")]
    [InlineData("d: { report: late, mail: { server: 'smtp://x', from: a@x.example, to: b@x.example } }", "'smtp://x' is not a server")]
    [InlineData("d: { report: late, mail: { server: smtp.example, from: here, to: b@x.example } }", "'here' is not a mail address")]
    [InlineData("d: { report: late, mail: { server: smtp.example, from: a@x.example, to: \"b@x.example\\nBcc: c@x.example\" } }", "is not a mail address")]
    [InlineData("d: { report: late, mail: { server: smtp.example, from: a@x.example, to: b@x.example, subject: \"a\\nBcc: c@x.example\" } }", "the subject contains a line break")]
    [InlineData("d: { report: late, mail: { server: smtp.example, user: u, from: a@x.example, to: b@x.example } }", "user:, and neither password: nor identity:")]
    [InlineData("d: { report: late, mail: { server: smtp.example, user: u, password: env:P, identity: app, from: a@x.example, to: b@x.example } }", "both password: and identity:")]
    [InlineData("d: { report: late, mail: { server: smtp.example, password: env:P, from: a@x.example, to: b@x.example } }", "no user: who signs in")]
    [InlineData("d: { report: late, mail: { server: smtp.example, user: u, identity: nobody, from: a@x.example, to: b@x.example } }", "no identity is named 'nobody'")]
    [InlineData("d: { report: late, mail: { server: smtp.example, user: u, password: hunter2, from: a@x.example, to: b@x.example } }", "is not a secret source")]
    [InlineData("d: { report: late, mail: { server: smtp.example, from: a@x.example, to: b@x.example, attach: late.pdf } }", "attaches 'late.pdf', but none of its reports writes it")]
    [InlineData("d: { report: late, sftp: { server: x.example, host-key: SHA256:abc, user: u, password: env:P, path: in } }", "'SHA256:abc' is not a fingerprint")]
    [InlineData("d: { report: late, sftp: { server: x.example, host-key: KEY, user: u, path: in } }", "neither password: nor private-key:")]
    [InlineData("d: { report: late, sftp: { server: x.example, host-key: KEY, user: u, password: env:P, private-key: file:k, path: in } }", "both password: and private-key:")]
    [InlineData("d: { report: late, sftp: { server: x.example, user: u, password: env:P, path: in } }", "has no 'host-key'")]
    [InlineData("d: { table: { server: db.example, security: none, database: d, user: u, table: t, sql: select 1 as a } }", "would cross the network unprotected")]
    [InlineData("d: { table: { server: localhost, security: none, database: d, user: u, table: t, sql: select 1 as a, rows: merge } }", "merges rows but has no key")]
    [InlineData("d: { table: { server: localhost, security: none, database: d, user: u, table: t, sql: select 1 as a, key: [a] } }", "does not merge rows")]
    [InlineData("d: { table: { server: localhost, security: none, database: d, user: u, table: a.b.c, sql: select 1 as a } }", "'a.b.c' is not a table name")]
    [InlineData("d: { report: late, table: { server: localhost, security: none, database: d, user: u, table: t, sql: select 1 as a } }", "whose rows come from sql:")]
    [InlineData("d: { when: failed, table: { server: localhost, security: none, database: d, user: u, table: t, sql: select 1 as a } }", "has no files to send there")]
    [InlineData("d: { message: { address: https://chat.example/hook } }", "is not a secret source")]
    [InlineData("d: { message: { address: env:A, body: { text: '{run.hat}' } } }", "{run.hat} is not known here")]
    [InlineData("d: { message: { address: env:A, body: { key: env:KEY } } }", "has a secret in its body")]
    [InlineData("d: { when: rows, message: { address: env:A } }", "depends on rows but names no report")]
    [InlineData("d: { report: late, per: file, MAIL }", "none of its reports has file-per:")]
    [InlineData("d: { when: failed, mail: { server: smtp.example, from: a@x.example, to: { sql: select 1 } } }", "whose rows may be missing")]
    public void Mistakes_are_told(string delivery, string said)
    {
        var mistakes = Should.Throw<JobMistakesException>(() => Read("  " + delivery.Replace("MAIL", Mail).Replace("KEY", Key))).Mistakes;
        mistakes.Select(mistake => $"{mistake.Found}; {mistake.Right}").ShouldContain(mistake => mistake.Contains(said));
    }

    private Job Read(string deliveries) => JobReader.Read(_folder.Write("job.cursiva.yaml", Head + "\n" + deliveries), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);
}

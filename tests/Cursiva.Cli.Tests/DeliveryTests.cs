using System.Text.RegularExpressions;

namespace Cursiva.Cli.Tests;

/// <summary>Reports are delivered once, by mail and into folders, whatever happens on the way (promise 14).</summary>
public sealed class DeliveryTests : IAsyncLifetime
{
    private const string Reports = """
        late:
          title: Late consignments
          sql: select depot, reference from consignments order by reference
          write: [late.csv, late.fragment.html, late.xlsx]
        """;

    private StandIn _cloud = null!;
    private MailServer _mail = null!;

    public async ValueTask InitializeAsync()
    {
        _mail = await MailServer.StartAsync();
        _cloud = await StandIn.StartAsync("--client-secret", Job.Secret, "--rows", "60");
    }

    public ValueTask DisposeAsync()
    {
        _cloud?.Dispose();
        _mail?.Dispose();
        return ValueTask.CompletedTask;
    }

    [Fact]
    public async Task A_mail_has_the_report_as_its_body_and_its_files_attached()
    {
        using var job = MailJob("subject: 'Late on {run.date}', text: 'Every one, æøå.', user: night-jobs, password: env:MAIL_PASSWORD");
        (await RunAsync(job)).ShouldEndWith(0).Out.ShouldContain("Delivered");
        var mail = _mail.Mails.ShouldHaveSingleItem();
        mail.ShouldContain("From: Night jobs <night@brackwater.example>");
        mail.ShouldContain("To: desk@brackwater.example, Second <second@brackwater.example>");
        mail.ShouldMatch("Subject: Late on 20[0-9]{2}-[0-9]{2}-[0-9]{2}");
        mail.ShouldContain("Auto-Submitted: auto-generated");
        mail.ShouldContain("Content-Type: text/html");
        Regex.Matches(mail, "filename=\"?([a-z.]+)").Select(match => match.Groups[1].Value).ShouldBe(["late.csv", "late.xlsx"]);
        _mail.Envelopes.ShouldBe(["night@brackwater.example desk@brackwater.example,second@brackwater.example night-jobs"]);
        (await job.DoAsync(["ledger", job.Path])).ShouldEndWith(0).Out.ShouldContain("taken as 1");
        (await RunAsync(job, "--new")).ShouldEndWith(0);
        _mail.Mails.Count.ShouldBe(2);
        Regex.Match(_mail.Mails[1], "Message-Id: <.*>").Value.ShouldNotBe(Regex.Match(mail, "Message-Id: <.*>").Value);
        Directory.GetFiles(job.State, "*", SearchOption.AllDirectories).ShouldNotContain(path => path.Contains("/outbox/"));
    }

    [Theory]
    [InlineData("night@brackwater.example", "", 0)]
    [InlineData("somebody@brackwater.example", "", 9)]
    [InlineData("night@brackwater.example", "bearer", 0)]
    [InlineData("somebody@brackwater.example", "bearer", 9)]
    public async Task An_access_token_signs_in_at_the_mail_server(string user, string manner, int code)
    {
        _mail.Behave(manner);
        using var job = MailJob($"user: {user}, identity: app, attach: none");
        var ended = (await RunAsync(job)).ShouldEndWith(code);
        if (code == 0)
            _mail.Envelopes.ShouldHaveSingleItem().ShouldEndWith(" " + user);
        else
            ended.Error.ShouldContain($"refused the sign-in of '{user}'");
    }

    [Fact]
    public async Task A_run_is_done_while_the_server_sleeps_and_what_was_meant_is_sent_later()
    {
        using var job = MailJob("attach: [late.csv]");
        _mail.Behave("later");
        var pending = (await RunAsync(job)).ShouldEndWith(9);
        pending.Error.ShouldContain("1 delivery has not been sent: to-the-desk-1 is ready (127.0.0.1 does not accept desk@brackwater.example: 451 greylisted, come again later");
        (await job.DoAsync(["runs", "list", job.Path])).Out.ShouldContain("done");
        File.WriteAllText(job["reports/late.csv"], "something else since");
        (await job.DoAsync(["deliver", job.Path])).ShouldEndWith(9);
        _mail.Behave("");
        (await job.DoAsync(["deliver", job.Path])).ShouldEndWith(0).Out.ShouldContain("sent");
        _mail.Mails.ShouldHaveSingleItem().ShouldNotContain("something else since");
        (await job.DoAsync(["deliver", job.Path])).ShouldEndWith(0).Out.ShouldContain("There is nothing to deliver.");
        _mail.Mails.Count.ShouldBe(1);
    }

    [Fact]
    public async Task The_next_run_sends_what_an_earlier_one_left()
    {
        using var job = MailJob("attach: none");
        (await RunAsync(job, "--no-deliveries")).ShouldEndWith(0);
        _mail.Mails.ShouldBeEmpty();
        (await RunAsync(job, "--new")).ShouldEndWith(0);
        _mail.Mails.Count.ShouldBe(2);
    }

    [Theory]
    [InlineData("hold", "taken-and-cut", 1)]
    [InlineData("hold", "lost", 0)]
    [InlineData("repeat", "taken-and-cut", 2)]
    [InlineData("repeat", "lost", 1)]
    public async Task A_lost_answer_is_in_doubt_and_held_or_repeated(string doubt, string manner, int mails)
    {
        using var job = MailJob("attach: none", $"when-in-doubt: {doubt}");
        _mail.Behave(manner);
        (await RunAsync(job)).ShouldEndWith(9).Error.ShouldContain("to-the-desk-1 is in doubt");
        _mail.Behave("");
        (await job.DoAsync(["deliver", job.Path])).ShouldEndWith(doubt == "hold" ? 9 : 0);
        _mail.Mails.Count.ShouldBe(mails);
    }

    [Theory]
    [InlineData("--sent", 1, "sent")]
    [InlineData("--again", 2, "sent")]
    [InlineData("--drop", 1, "given up")]
    public async Task Somebody_decides_what_is_in_doubt(string decision, int mails, string state)
    {
        using var job = MailJob("attach: none");
        _mail.Behave("taken-and-cut");
        (await RunAsync(job)).ShouldEndWith(9).Error.ShouldContain($"cursiva ledger {job.Path} --sent to-the-desk-1");
        _mail.Behave("");
        (await job.DoAsync(["ledger", job.Path, decision, "to-the-desk-1"])).ShouldEndWith(0);
        (await job.DoAsync(["deliver", job.Path])).ShouldEndWith(0);
        _mail.Mails.Count.ShouldBe(mails);
        (await job.DoAsync(["ledger", job.Path])).Out.ShouldContain(state);
        (await job.DoAsync(["ledger", job.Path, decision, "to-the-desk-1"])).ShouldEndWith(2).Error.ShouldContain("there is nothing to decide");
    }

    [Fact]
    public async Task A_process_that_is_killed_while_it_sends_leaves_the_mail_in_doubt()
    {
        using var job = MailJob("attach: none");
        _mail.Behave("taken-and-silent");
        await job.DoAsync(["run", job.Path], async process =>
        {
            for (var i = 0; _mail.Mails.Count == 0; i++)
            {
                i.ShouldBeLessThan(3000, "the mail did not come in 30 s");
                await Task.Delay(10);
            }

            process.Kill();
        });
        _mail.Behave("");
        (await job.DoAsync(["ledger", job.Path])).Out.ShouldContain("sending");
        (await job.DoAsync(["deliver", job.Path])).ShouldEndWith(9).Error.ShouldContain("to-the-desk-1 is in doubt (a process ended while sending it)");
        _mail.Mails.Count.ShouldBe(1);
    }

    [Theory]
    [InlineData("to: [nobody@brackwater.example]", "does not accept nobody@brackwater.example: 550 no such mailbox", "refused")]
    [InlineData("user: night-jobs, password: env:BRACKWATER_SECRET", "refused the sign-in of 'night-jobs'", "ready")]
    [InlineData("security: starttls", "cannot be reached", "ready")]
    [InlineData("server: 127.0.0.1:1", "127.0.0.1:1 cannot be reached: Connection refused", "ready")]
    public async Task What_a_server_does_not_take_is_told_and_stays(string mail, string said, string state)
    {
        using var job = MailJob("attach: none");
        var key = mail.Split(':')[0];
        job.Yaml = Regex.Replace(job.Yaml, key is "to" or "security" or "server" ? $@"\b{key}: (\[.*?\]|[^,]+)" : "attach: none", mail);
        job.Save();
        (await RunAsync(job)).ShouldEndWith(9).All.ShouldContain(said);
        (await job.DoAsync(["ledger", job.Path])).Out.ShouldContain(state);
        _mail.Mails.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_mail_that_is_larger_than_the_server_takes_is_told_before_it_is_sent()
    {
        using var job = MailJob("");
        job.Yaml = job.Yaml.Replace("select depot, reference", "select depot, reference, repeat('x', 9000) as much");
        job.Save();
        (await RunAsync(job)).ShouldEndWith(9).Error.ShouldContain("accepts 200,000 at most (RFC 1870)");
        _mail.Envelopes.ShouldBeEmpty();
    }

    [Fact]
    public async Task Only_rows_that_changed_are_delivered_where_the_job_says_so()
    {
        using var job = MailJob("", "when: changed");
        (await RunAsync(job)).ShouldEndWith(0);
        (await RunAsync(job, "--new")).ShouldEndWith(0);
        _mail.Mails.Count.ShouldBe(1);
        await _cloud.NextDayAsync();
        (await RunAsync(job, "--new")).ShouldEndWith(0);
        _mail.Mails.Count.ShouldBe(2);
    }

    [Fact]
    public async Task Reports_without_rows_stay_where_the_job_says_so()
    {
        using var job = MailJob("", "when: rows");
        job.Yaml = job.Yaml.Replace("order by reference", "where depot = 'nowhere'");
        job.Save();
        (await RunAsync(job)).ShouldEndWith(0);
        _mail.Mails.ShouldBeEmpty();
    }

    [Fact]
    public async Task A_run_that_failed_tells_somebody_with_the_words_of_the_terminal()
    {
        using var job = MailJob("", "when: failed", reports: false);
        (await RunAsync(job)).ShouldEndWith(0);
        _mail.Mails.ShouldBeEmpty();
        job.Yaml = job.Yaml.Replace("get: /consignments", "get: /nowhere");
        job.Save();
        (await RunAsync(job, "--new")).ShouldEndWith(5);
        var mail = _mail.Mails.ShouldHaveSingleItem();
        mail.ShouldContain("Subject: late: run 2 failed");
        mail.ShouldContain("API 'exchange' answered with status 404");
        mail.ShouldNotContain(Job.Secret);
    }

    [Fact]
    public async Task Reports_that_are_written_later_are_delivered_then_and_old_ones_are_not_again()
    {
        using var job = MailJob("attach: none");
        job.Yaml = job.Yaml.Replace("select depot, reference", "select cast(depot as integer), reference");
        job.Save();
        (await RunAsync(job)).ShouldEndWith(8);
        _mail.Mails.ShouldBeEmpty();
        job.Yaml = job.Yaml.Replace("cast(depot as integer)", "depot");
        job.Save();
        (await job.DoAsync(["report", job.Path])).ShouldEndWith(0).Out.ShouldContain("Delivered");
        (await job.DoAsync(["report", job.Path])).ShouldEndWith(0);
        (await job.DoAsync(["report", job.Path, "--out", "old"])).ShouldEndWith(0);
        _mail.Mails.Count.ShouldBe(1);
    }

    [Fact]
    public async Task Files_are_put_into_a_folder_once_it_is_there()
    {
        using var job = new Job(_cloud.Address, "consignments: { get: /consignments, rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }", Reports, top: "deliveries:\n  share: { report: late, folder: { path: 'share/{run.number}' } }");
        File.WriteAllText(job["share"], "not mounted");
        (await RunAsync(job)).ShouldEndWith(9).Error.ShouldContain("share-1 is ready (the folder cannot be written");
        File.Delete(job["share"]);
        (await job.DoAsync(["deliver", job.Path])).ShouldEndWith(0);
        foreach (var file in new[] { "late.csv", "late.fragment.html", "late.xlsx" })
            File.ReadAllBytes(job[$"share/1/{file}"]).AsSpan().SequenceEqual(File.ReadAllBytes(job[$"reports/{file}"])).ShouldBeTrue(file);
    }

    [Theory]
    [InlineData("nobody@brackwater.example", "refused", "nobody@brackwater.example: 550 no such mailbox; desk@brackwater.example has it")]
    [InlineData("tomorrow@brackwater.example", "ready", "tomorrow@brackwater.example: 451 come again later; desk@brackwater.example has it")]
    public async Task One_recipient_of_several_is_told_and_the_others_get_it_once(string other, string state, string said)
    {
        using var job = MailJob("attach: none");
        job.Yaml = job.Yaml.Replace("Second <second@brackwater.example>", other);
        job.Save();
        (await RunAsync(job)).ShouldEndWith(9).Error.ShouldContain(said);
        _mail.Envelopes.ShouldHaveSingleItem().ShouldBe("night@brackwater.example desk@brackwater.example -");
        (await job.DoAsync(["ledger", job.Path])).Out.ShouldContain(state);
        if (state == "refused")
            (await job.DoAsync(["ledger", job.Path, "--again", "to-the-desk-1"])).ShouldEndWith(0);
        _mail.Behave("everybody");
        (await job.DoAsync(["deliver", job.Path])).ShouldEndWith(0);
        _mail.Envelopes[1].ShouldBe($"night@brackwater.example {other} -");
    }

    [Fact]
    public async Task Each_file_goes_to_those_whom_the_query_names_for_it_and_to_nobody_else()
    {
        using var job = MailJob("attach: none", "per: file");
        job.Yaml = job.Yaml.Replace("order by reference", "order by reference\n    file-per: depot").Replace("[late.csv, late.fragment.html, late.xlsx]", "['late-{depot}.csv', 'late-{depot}.fragment.html']").Replace(", attach: none", "");
        job.Yaml = Regex.Replace(job.Yaml, @"to: \[.*?\]", "to: { sql: \"select distinct depot, lower(replace(replace(depot, ' ', '.'), 'ø', 'o')) || '@brackwater.example' from consignments where depot <> (select min(depot) from consignments)\" }");
        job.Save();
        var ended = (await RunAsync(job)).ShouldEndWith(9);
        var left = Regex.Match(ended.Error, "names nobody for '(.*?)'").Groups[1].Value;
        var files = Directory.GetFiles(job["reports"], "late-*.csv");
        _mail.Mails.Count.ShouldBe(files.Length - 1);

        // One depot has a letter in its name that headers spell in their own way (RFC 2231).
        foreach (var mail in _mail.Mails.Where(mail => !mail.Contains("mollehavn@")))
        {
            var depot = Regex.Match(mail, "filename=\"?late-(.*?)\\.csv").Groups[1].Value;
            depot.ShouldNotBe(left);
            mail.ShouldContain($"To: {depot.ToLowerInvariant().Replace(' ', '.')}@brackwater.example");
            Regex.Count(mail, "filename=").ShouldBe(1);
            mail.ShouldContain("Content-Type: text/html");
        }

    }

    [Fact]
    public async Task A_query_names_who_receives_a_mail_and_what_is_no_address_is_told()
    {
        using var job = MailJob("attach: none");
        job.Yaml = Regex.Replace(job.Yaml, @"to: \[.*?\]", "to: { sql: \"select 'desk@brackwater.example' union all select 'second@brackwater.example' order by 1\" }");
        job.Save();
        (await RunAsync(job)).ShouldEndWith(0);
        _mail.Envelopes.ShouldHaveSingleItem().ShouldStartWith("night@brackwater.example desk@brackwater.example,second@brackwater.example");
        job.Yaml = job.Yaml.Replace("'second@brackwater.example'", "'second@brackwater.example' || chr(10) || 'Bcc: x@y.example'");
        job.Save();
        (await RunAsync(job, "--new")).ShouldEndWith(9).Error.ShouldContain("which is not a mail address");
        _mail.Mails.Count.ShouldBe(1);
    }

    [Theory]
    [InlineData("starttls")]
    [InlineData("tls")]
    public async Task The_way_to_the_server_is_protected_and_its_certificate_checked(string security)
    {
        using var server = await MailServer.StartAsync(security == "tls" ? "tls" : "");
        using var job = MailJob("attach: none, user: night-jobs, password: env:MAIL_PASSWORD");
        job.Yaml = job.Yaml.Replace($"127.0.0.1:{_mail.Port}", $"localhost:{server.Port}").Replace("security: none", $"security: {security}");
        job.Save();
        (await RunAsync(job)).ShouldEndWith(9).Error.ShouldContain("certificate");
        server.Mails.ShouldBeEmpty();
        File.Copy(server.Authority, job["ca.pem"]);
        job.Yaml = job.Yaml.Replace($"security: {security}", $"security: {security}, trust: ca.pem");
        job.Save();
        (await job.DoAsync(["deliver", job.Path], environment: [("MAIL_PASSWORD", "mail pass: 100 %")])).ShouldEndWith(0);
        server.Mails.Count.ShouldBe(1);
    }

    [Fact]
    public async Task A_picture_is_seen_in_the_mail_itself()
    {
        using var job = MailJob("");
        job.Yaml = job.Yaml.Replace("sql: select depot, reference from consignments order by reference", "parts: { by-depot: { as: bar, sql: 'select depot, count(*) as n from consignments group by depot order by depot' } }").Replace("[late.csv, late.fragment.html, late.xlsx]", "[late.png, late.fragment.html]");
        job.Save();
        (await RunAsync(job)).ShouldEndWith(0);
        var mail = _mail.Mails.ShouldHaveSingleItem();
        mail.ShouldContain("multipart/related");
        mail.ShouldContain("Content-Type: image/png");
        var id = Regex.Match(mail, "Content-Id: <(.*?)>").Groups[1].Value;
        mail.Replace("=\r\n", "").Replace("=3D", "=").ShouldContain($"cid:{id}");
    }

    private Job MailJob(string mail, string delivery = "", bool reports = true)
    {
        var more = mail.Length > 0 ? ", " + mail : "";
        var keys = delivery.Length > 0 ? $"\n    {delivery}" : "";
        return new Job(_cloud.Address, "consignments: { get: /consignments, rows: /items, paging: { cursor: /page/cursor, parameter: cursor } }", Reports, top: $$"""
            deliveries:
              to-the-desk:{{(reports ? "\n    report: late" : "")}}{{keys}}
                mail: { server: 127.0.0.1:{{_mail.Port}}, security: none, from: Night jobs <night@brackwater.example>, to: [desk@brackwater.example, Second <second@brackwater.example>]{{more}} }
            """);
    }

    private static Task<Ended> RunAsync(Job job, params string[] arguments) => job.DoAsync(["run", job.Path, .. arguments], environment: [("MAIL_PASSWORD", "mail pass: 100 %")]);
}

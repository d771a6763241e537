namespace Cursiva.Cli.Help;

/// <summary>What <c>cursiva help TOPIC</c> tells.</summary>
internal static class Topics
{
    public static IReadOnlyDictionary<string, string> All { get; } = new Dictionary<string, string>(StringComparer.Ordinal)
    {
        ["job-file"] = """
            A job file is YAML. It says who signs in, where the API is, what to pull, and which reports to write:

              cursiva: 1
              identities:
                app: { grant: client_credentials, issuer: https://login.example, client-id: my-app, secret: kept:my-secret }
              apis:
                exchange: { base: https://api.example/v2, identity: app, limits: { at-most: 10 per second } }
              pulls:
                orders: { get: /orders, rows: /items, paging: { next-link: /links/next } }
              reports:
                orders: { sql: select * from orders, write: orders.csv }

            'cursiva check JOB' lists every mistake with its line. Every key is in docs/job-file.md.
            With the schema, an editor completes and checks the keys: 'cursiva schema > job.schema.json', and "$schema": job.schema.json at the top of the file.
            """,
        ["paging"] = """
            paging: of a pull says how to find the next page of a listing:

              next-link: /links/next                      the page has the address of the next one
              link-header: next                           a Link header has it (RFC 8288)
              cursor: /cursor, parameter: after           the page has a cursor, sent back as a parameter
              page-number: 1, parameter: page             counts pages, from 1
              offset: 0, parameter: skip, page-size: 100  counts rows
              keyset: /id, parameter: after-id            the next page starts after a value of the last row
              stream: lines                               one answer, a JSON object on each line

            With total: or pages: the run proves that the listing is complete. More in docs/pulling.md.
            """,
        ["signing-in"] = """
            grant: of an identity says how to obtain a token:

              client_credentials    the application itself, with secret: or private-key:
              authorization_code    a person, once, with 'cursiva sign-in'; the job then uses the refresh token
              refresh_token         a refresh token that you already have
              header                a fixed key in a header, without a sign-in

            A secret is never in the job file: secret: says where it is (kept:NAME, env:NAME, file:PATH, systemd:NAME).
            'cursiva check JOB --live' shows whether sign-in and APIs work, and 'cursiva check JOB --live --try' looks for what does.
            More in docs/identity.md.
            """,
        ["exit-codes"] = """
              0  done                                       7  stopped at a deadline or budget; the next start resumes it
              1  internal error, or an unusable state       8  a report could not be written, a requirement failed,
              2  wrong command line                            or overview --failing found something
              3  the job file is wrong                      9  done, but a delivery is pending or in doubt
              4  the sign-in was refused                   10  this job is already running
              5  the API failed after all attempts        130  interrupted; the next start resumes it
              6  more was skipped than the job allows     143  terminated; the next start resumes it
            """,
    };
}

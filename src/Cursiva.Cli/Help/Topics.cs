namespace Cursiva.Cli.Help;

/// <summary>What <c>cursiva help TOPIC</c> tells.</summary>
internal static class Topics
{
    public static IReadOnlyDictionary<string, string> All { get; } = new Dictionary<string, string>(StringComparer.Ordinal)
    {
        ["job-file"] = """
            A job file is YAML. It says who signs in, where the API is, what is pulled, and which reports are written:

              cursiva: 1
              identities:
                app: { grant: client_credentials, issuer: https://login.example, client-id: my-app, secret: kept:my-secret }
              apis:
                exchange: { base: https://api.example/v2, identity: app, limits: { at-most: 10 per second } }
              pulls:
                orders: { get: /orders, rows: /items, paging: { next-link: /links/next } }
              reports:
                orders: { sql: select * from orders, write: orders.csv }

            'cursiva check JOB' names every mistake with its line. Every key is in docs/job-file.md.
            An editor knows the keys by the schema: 'cursiva schema > job.schema.json', and "$schema": job.schema.json at the top of the file.
            """,
        ["paging"] = """
            How the next page of a listing is found, under paging: of a pull:

              next-link: /links/next                      the page has the address of the next one
              link-header: next                           a Link header has it (RFC 8288)
              cursor: /cursor, parameter: after           the page has a cursor, sent back as a parameter
              page-number: 1, parameter: page             pages are counted, from 1
              offset: 0, parameter: skip, page-size: 100  rows are counted
              keyset: /id, parameter: after-id            the last row of a page says where the next one begins
              stream: lines                               one answer, a JSON object a line

            With total: or pages: the run proves that the listing is complete. More in docs/pulling.md.
            """,
        ["signing-in"] = """
            grant: of an identity says how a token is had:

              client_credentials    the application itself, with secret: or private-key:
              authorization_code    a person, once, with 'cursiva sign-in'; the job lives on the refresh token
              refresh_token         a refresh token that somebody has already
              header                a fixed key in a header; nobody is asked

            A secret is never in the job file: secret: names where it is (kept:NAME, env:NAME, file:PATH, systemd:NAME).
            'cursiva check JOB --live' says whether a run would be let in, and 'cursiva check JOB --live --try' looks for a way.
            More in docs/identity.md.
            """,
        ["exit-codes"] = """
              0  done                                       7  stopped at a deadline or budget; the next start resumes it
              1  internal error, or an unusable state       8  a report could not be written, what it requires does not hold,
              2  wrong command line                            or overview --failing found something
              3  the job file is wrong                      9  done, and a delivery is pending or in doubt
              4  the sign-in was refused                   10  this job is running already
              5  the API failed after all attempts        130  interrupted; the next start resumes it
              6  more was skipped than the job allows     143  terminated; the next start resumes it
            """,
    };
}

namespace Cursiva.Cli.Help;

/// <summary>An example or two for every command, as its help shows them.</summary>
internal static class Examples
{
    public static IReadOnlyDictionary<string, IReadOnlyList<string>> All { get; } = new Dictionary<string, IReadOnlyList<string>>(
        StringComparer.Ordinal)
    {
        ["cursiva"] = ["cursiva demo", "cursiva check weekly.cursiva.yaml --live", "cursiva run weekly.cursiva.yaml"],
        ["cursiva demo"] = ["cursiva demo", "cursiva demo --refusal not-approved"],
        ["cursiva check"] = ["cursiva check weekly.cursiva.yaml", "cursiva check weekly.cursiva.yaml --live --wait 15m"],
        ["cursiva run"] =
        [
            "cursiva run weekly.cursiva.yaml",
            "cursiva run weekly.cursiva.yaml --input since=2026-03-01 --deadline 2h",
            "cursiva run weekly.cursiva.yaml --dry-run",
            "cursiva run weekly.cursiva.yaml --rehearse night.har",
        ],
        ["cursiva report"] = ["cursiva report weekly.cursiva.yaml", "cursiva report weekly.cursiva.yaml --run 12 --out old"],
        ["cursiva deliver"] = ["cursiva deliver weekly.cursiva.yaml"],
        ["cursiva ledger"] = ["cursiva ledger weekly.cursiva.yaml", "cursiva ledger weekly.cursiva.yaml --sent to-the-desk-12"],
        ["cursiva runs"] = ["cursiva runs list weekly.cursiva.yaml"],
        ["cursiva runs list"] = ["cursiva runs list weekly.cursiva.yaml --format json", "cursiva runs list --all-jobs --since 7d"],
        ["cursiva runs watch"] = ["cursiva runs watch weekly.cursiva.yaml"],
        ["cursiva runs stop"] = ["cursiva runs stop weekly.cursiva.yaml"],
        ["cursiva runs show"] = ["cursiva runs show weekly.cursiva.yaml 12"],
        ["cursiva runs compare"] = ["cursiva runs compare weekly.cursiva.yaml 11 12"],
        ["cursiva runs prune"] = ["cursiva runs prune weekly.cursiva.yaml"],
        ["cursiva overview"] =
        [
            "cursiva overview",
            "cursiva overview --failing",
            "cursiva overview /etc/cursiva --html overview.html",
            "cursiva overview --late night-watch.cursiva.yaml",
        ],
        ["cursiva schedule"] =
        [
            "cursiva schedule weekly.cursiva.yaml --at 06:30 --on weekdays",
            "sudo cursiva schedule /etc/cursiva/weekly.cursiva.yaml --install",
            "cursiva schedule --list",
        ],
        ["cursiva state"] = ["cursiva state show", "cursiva state backup /srv/backup/cursiva-monday"],
        ["cursiva state show"] = ["cursiva state show --format json"],
        ["cursiva state verify"] = ["cursiva state verify"],
        ["cursiva state backup"] = ["cursiva state backup /srv/backup/cursiva-monday"],
        ["cursiva state restore"] = ["cursiva state restore /srv/backup/cursiva-monday --state /var/lib/cursiva"],
        ["cursiva state fold"] = ["cursiva state fold weekly.cursiva.yaml"],
        ["cursiva state init"] =
        [
            "cursiva state init --state 'postgresql://admin@db.example/cursiva?password=env:ADMIN_PASSWORD'",
            "cursiva state init --print",
        ],
        ["cursiva call"] =
        [
            "cursiva call weekly.cursiva.yaml exchange /me",
            "cursiva call weekly.cursiva.yaml exchange '/depots?size=5' --pointer /items --table",
            "cursiva call weekly.cursiva.yaml exchange /depots/7 --method PUT --body-from depot.json",
            "cursiva call https://api.brackwater.example/v2/depots --bearer env:TOKEN --pointer /items --table",
        ],
        ["cursiva draft"] =
        [
            "cursiva draft https://api.brackwater.example/v2/depots --token-endpoint https://login.brackwater.example/oauth2/token --client-id 3f1c-demo --secret env:BRACKWATER_SECRET",
            "cursiva draft saved.json --address https://api.brackwater.example/v2/depots",
            "cursiva draft --description openapi.yaml",
            "cursiva draft --columns weekly.cursiva.yaml --pull consignments",
        ],
        ["cursiva shape"] = ["cursiva shape answer.json", "cursiva shape weekly.cursiva.yaml consignments --schema"],
        ["cursiva payload"] = ["cursiva payload encrypt declaration.json --key file:authority.pem"],
        ["cursiva payload encrypt"] =
            ["cursiva payload encrypt declaration.json --key file:authority.pem --algorithm RSA-OAEP-256 --content A256GCM --result"],
        ["cursiva payload decrypt"] = ["cursiva payload decrypt answer.txt --key file:own.pem --key-password kept:own-password --reveal"],
        ["cursiva payload sign"] = ["cursiva payload sign declaration.json --key file:own.pem --detached"],
        ["cursiva payload verify"] = ["cursiva payload verify receipt.txt --key file:authority.crt"],
        ["cursiva payload validate"] = ["cursiva payload validate declaration.json --schema declaration.schema.json"],
        ["cursiva token"] = ["cursiva token get weekly.cursiva.yaml"],
        ["cursiva token get"] = ["cursiva token get weekly.cursiva.yaml reporting-app", "cursiva token get weekly.cursiva.yaml --reveal"],
        ["cursiva token read"] = ["cursiva token read --job weekly.cursiva.yaml", "cursiva token read --offline"],
        ["cursiva token revoke"] = ["cursiva token revoke weekly.cursiva.yaml clerk"],
        ["cursiva sign-in"] = ["cursiva sign-in weekly.cursiva.yaml clerk", "cursiva sign-in weekly.cursiva.yaml clerk --paste"],
        ["cursiva secret"] = ["cursiva secret list"],
        ["cursiva secret keep"] = ["cursiva secret keep reporting-secret --expires 2026-09-30"],
        ["cursiva secret list"] = ["cursiva secret list"],
        ["cursiva secret remove"] = ["cursiva secret remove reporting-secret"],
        ["cursiva cert"] = ["cursiva cert create --out reporting"],
        ["cursiva cert create"] = ["cursiva cert create --out reporting --days 365 --password kept:p12-password"],
        ["cursiva schema"] = ["cursiva schema > job.schema.json"],
        ["cursiva cert show"] = ["cursiva cert show reporting.crt"],
    };
}

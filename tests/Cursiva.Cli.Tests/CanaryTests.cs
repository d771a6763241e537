using System.Text;

namespace Cursiva.Cli.Tests;

/// <summary>No secret and no token appears anywhere (promise 3).</summary>
public sealed class CanaryTests
{
    [Theory]
    [InlineData("")]
    [InlineData("--fail-every 2")]
    [InlineData("--token-uses 1")]
    [InlineData("--client-secret other")]
    public async Task No_secret_and_no_token_is_left_anywhere(string quirk)
    {
        string[] arguments = ["--rows", "200", .. quirk.Contains("--client-secret") ? [] : new[] { "--client-secret", Job.Secret }, .. quirk.Split(' ', StringSplitOptions.RemoveEmptyEntries)];
        using var cloud = await StandIn.StartAsync(arguments);
        foreach (var way in new[] { "client_secret_basic", "client_secret_post" })
        {
            using var job = new Job(cloud.Address, Pieces.Consignments, Pieces.All, identity: $"client-auth: {way}");
            foreach (var log in new[] { "plain", "json", "debug" })
                Search(job, await job.RunAsync("--log", log));
            Search(job, await job.DoAsync(["check", job.Path]));

            // A secret pasted where it does not belong is not repeated either.
            job.Yaml = job.Yaml.Replace("env:BRACKWATER_SECRET", $"'{Job.Secret}'");
            job.Save();
            var pasted = (await job.DoAsync(["check", job.Path])).ShouldEndWith(3);
            pasted.All.ShouldNotContain(Job.Secret);
        }
    }

    private static void Search(Job job, Ended ended)
    {
        var places = Directory.GetFiles(job.Folder, "*", SearchOption.AllDirectories).ToDictionary(file => file, file => Encoding.Latin1.GetString(File.ReadAllBytes(file)));
        places["stdout"] = ended.Out;
        places["stderr"] = ended.Error;
        var utf8 = Encoding.UTF8.GetBytes(Job.Secret);
        string[] forms =
        [
            Job.Secret, Uri.EscapeDataString(Job.Secret), Uri.EscapeDataString(Job.Secret).Replace("%20", "+"), Convert.ToBase64String(utf8),
            Convert.ToBase64String(Encoding.UTF8.GetBytes($"brackwater-demo:{Uri.EscapeDataString(Job.Secret).Replace("%20", "+")}")),
            "eyJ", // how every signed token begins
        ];
        foreach (var (place, text) in places)
        {
            foreach (var form in forms)
                text.Contains(form, StringComparison.Ordinal).ShouldBeFalse($"'{form}' stands in {place}");
        }
    }
}

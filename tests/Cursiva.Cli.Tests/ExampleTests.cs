namespace Cursiva.Cli.Tests;

/// <summary>The jobs under examples/ run as they stand against the stand-in.</summary>
public sealed class ExampleTests
{
    [Theory]
    [InlineData("tenants/scans", "scans.csv", 57)]
    [InlineData("tree/papers", "contents.csv", 0)]
    [InlineData("incremental/vehicles", "vehicles.csv", 60)]
    [InlineData("export/consignments", "depots.csv", 12)]
    public async Task An_example_runs_as_it_stands(string name, string report, int rows)
    {
        using var cloud = await StandIn.StartAsync("--rows", "400", "--client-secret", "not-a-real-secret");
        using var folder = new TemporaryFolder();
        foreach (var source in new[] { "demo", name.Split('/')[0] })
        {
            Directory.CreateDirectory(folder[source]);
            foreach (var file in Directory.GetFiles(Path.Combine(App.Root, "examples", source)))
                File.Copy(file, Path.Combine(folder[source], Path.GetFileName(file)));
        }

        var job = folder[name + ".cursiva.yaml"];
        (string, string?)[] environment = [("CURSIVA_STATE", folder["state"]), ("BRACKWATER_SECRET", "not-a-real-secret"), ("CURSIVA_INPUT_CLOUD", cloud.Address), ("CURSIVA_INPUT_FILES", await cloud.ElsewhereAsync())];
        (await App.RunAsync(App.Cursiva, ["check", job], folder.Path, environment)).ShouldEndWith(0);
        (await App.RunAsync(App.Cursiva, ["run", job], folder.Path, environment)).ShouldEndWith(0);
        var lines = await File.ReadAllLinesAsync(folder[$"{name.Split('/')[0]}/reports/{report}"]);
        if (rows > 0)
            lines.Length.ShouldBe(rows + 1);
        else
            Directory.GetFiles(folder["tree/reports/papers"]).Length.ShouldBe(lines.Length - 1);
    }

    [Fact]
    public async Task Three_machines_work_on_one_run_and_one_of_them_dies()
    {
        Assert.SkipUnless(Directory.Exists("/usr/lib/postgresql"), "PostgreSQL is not installed; on Debian: apt-get install postgresql");
        using var folder = new TemporaryFolder();
        var tried = (await App.RunAsync(Path.Combine(App.Root, "examples/together/try"), [], folder.Path, [("CURSIVA_APP", App.Cursiva)])).ShouldEndWith(0);
        tried.Out.ShouldContain("machine 2 is dead");
        tried.Out.ShouldContain("scans.csv");
        tried.Out.ShouldContain("requests that the cloud saw beyond the limit: 0");
        tried.Out.Split('\n').Count(line => line.StartsWith("Run 1 done", StringComparison.Ordinal)).ShouldBe(2);
    }
}

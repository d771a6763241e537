using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;
using Cursiva.Core.Pulls;
using Cursiva.Core.Runs;
using Cursiva.Core.Tables;
using Cursiva.Core.Tests.Http;
using Cursiva.Core.Tests.Identity;

namespace Cursiva.Core.Tests.Pulls;

/// <summary>Fills the pulls of a job from a server in memory, and tells what landed.</summary>
internal sealed class PullHarness : IAsyncDisposable
{
    private readonly TemporaryFolder _folder = new();
    private readonly SignInFixture _fixture = new();

    /// <summary>What was warned of.</summary>
    public List<string> Warnings { get; } = [];

    /// <summary>How the pulls ended.</summary>
    public IReadOnlyList<PullFacts> Ends { get; private set; } = [];

    /// <summary>The requests that the server got.</summary>
    public List<Uri> Requests { get; } = [];

    /// <summary>The landed rows of each pull, as JSON lines.</summary>
    public Dictionary<string, string> Rows { get; } = [];

    public IReadOnlyList<LandedStrand> Strands { get; private set; } = [];

    /// <summary>Fills the pulls that a job declares.</summary>
    /// <param name="pulls">What stands below <c>pulls:</c>.</param>
    /// <param name="answer">Answers a request by its path and query.</param>
    /// <param name="disk">Where files are kept; null for the machine's.</param>
    /// <param name="landing">Where the rows land, to resume them; null for a new place.</param>
    public async Task RunAsync(string pulls, Func<HttpRequestMessage, HttpResponseMessage> answer, string? landing = null, IDisk? disk = null)
    {
        var server = new FakeServer((request, _) =>
        {
            lock (Requests)
                Requests.Add(request.RequestUri!);
            return answer(request);
        });
        var services = _fixture.Services(server);
        var path = _folder.Write("job.cursiva.yaml", $"cursiva: 1\napis: {{ x: {{ base: https://x.example, attempts: 2, timeout: 5s }} }}\npulls:\n{string.Join('\n', pulls.Split('\n').Select(line => "  " + line))}\n");
        var job = JobReader.Read(path, new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);
        await using var landed = new RunLanding(disk ?? new Disk(), _folder[landing ?? Guid.NewGuid().ToString("n")], TimeProvider.System);
        using var signIns = new SignIns(services);
        await using var clients = new ApiClients(job, signIns, services);
        var pullServices = new PullServices(job, landed, clients.OfAsync, new NoPast(), services.Secrets, services.Redactor, disk ?? services.Disk, _folder["odd"], _folder["out"], services.Backoff, Budget.Unlimited, services.Clock, _fixture.Watch, new SilentPulls(), Warnings.Add, (_, _) => Task.CompletedTask);
        try
        {
            foreach (var family in PullFamily.Of(job.Pulls))
                await new PullFamily(family, pullServices).RunAsync(_ => { }, CancellationToken.None);
        }
        finally
        {
            await landed.CommitAsync(CancellationToken.None);
            Ends = PullEnds.Of(job, landed);
            Strands = [.. job.Pulls.SelectMany(pull => landed.Strands(pull.Name))];
            foreach (var pull in job.Pulls)
                Rows[pull.Name] = string.Concat(landed.Open(pull.Name) is var open ? open.Committed().Select(page => Encoding.UTF8.GetString(open.Read(page))) : []);
        }
    }

    /// <summary>A file below the folder of the reports.</summary>
    public string this[string file] => _folder["out/" + file];

    public async ValueTask DisposeAsync()
    {
        await _fixture.DisposeAsync();
        _folder.Dispose();
    }
}

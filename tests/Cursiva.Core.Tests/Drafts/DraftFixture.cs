using System.Text;
using System.Web;
using Cursiva.Core.Checks;
using Cursiva.Core.Drafts;
using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;
using Cursiva.Core.Runs;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;
using Cursiva.Core.Tests.Http;

namespace Cursiva.Core.Tests.Drafts;

/// <summary>Drafts jobs from an API in memory, and walks drafted listings to their end.</summary>
internal sealed class DraftFixture : IAsyncDisposable
{
    public const string Base = "https://api.example/v2";

    private readonly TemporaryFolder _folder = new();
    private readonly IState _state;

    public DraftFixture() => _state = SqliteState.Open(_folder["state.db"], TimeProvider.System);

    /// <summary>The requests that were made, in their order.</summary>
    public List<string> Asked { get; } = [];

    public string this[string file] => _folder[file];

    public string Write(string file, string text) => _folder.Write(file, text);

    /// <summary>An answer by query parameters, headers and body of a request; null for 400.</summary>
    public async Task<Drafted> DraftAsync(Func<Ask, string?> api, string path = "/rows", string? body = null, int requests = 12, IReadOnlyList<string>? parameters = null)
    {
        var order = new DraftOrder(AskedAddress.TryParse(Base + path)!, new AskedSignIn(), "job.cursiva.yaml", "0.1") { Body = body, MostRequests = requests, Parameters = parameters ?? [] };
        return await WithClientAsync(order, new FakeServer((request, _) => Answer(api, request)), client => new Drafting(order, client.Client, client.Services.Secrets, _folder.Path, TimeProvider.System).DraftAsync(CancellationToken.None));
    }

    /// <summary>Drafts from what was saved.</summary>
    public async Task<Drafted> DraftAsync(DraftSource source)
    {
        var order = new DraftOrder(source.Address, new AskedSignIn(), "job.cursiva.yaml", "0.1") { Body = source.Body, IsRecorded = true, MostRequests = int.MaxValue, Remarks = source.Remarks };
        return await WithClientAsync(order, source.Answers, client => new Drafting(order, client.Client, client.Services.Secrets, _folder.Path, TimeProvider.System).DraftAsync(CancellationToken.None));
    }

    /// <summary>The rows of a drafted job's pull, page by page to the end.</summary>
    public async Task<List<string>> RowsAsync(Drafted drafted, Func<Ask, string?> api)
    {
        var order = new DraftOrder(AskedAddress.TryParse(Base + "/rows")!, new AskedSignIn(), "", "");
        var pull = Read(drafted).Pulls[0];
        return await WithClientAsync(order, new FakeServer((request, _) => Answer(api, request)), async client =>
        {
            var requests = await StrandRequests.OpenAsync(pull, client.Client, new Dictionary<string, string>(), StrandFeed.InWindows(pull, Strand.Only).First(), null, null, client.Services.Secrets, new Cursiva.Core.Encryption.DocumentSchemas(""), CancellationToken.None);
            var look = new PageLook(pull, requests, client.Client.SendAsync, 10_000);
            var page = await look.FirstAsync(CancellationToken.None);
            var rows = page.Rows.Select(Encoding.UTF8.GetString).ToList();
            for (var largest = page.Scan.Rows; page.Way.Next is { } next; largest = Math.Max(largest, page.Scan.Rows))
            {
                page = await look.AtAsync(next, rows.Count, largest, CancellationToken.None);
                rows.AddRange(page.Rows.Select(Encoding.UTF8.GetString));
            }

            return rows;
        });
    }

    /// <summary>The job of a draft.</summary>
    public Job Read(Drafted drafted) => JobReader.ReadText(drafted.Text, "the draft", _folder.Path, new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);

    public async ValueTask DisposeAsync()
    {
        await _state.DisposeAsync();
        _folder.Dispose();
    }

    private async Task<T> WithClientAsync<T>(DraftOrder order, HttpMessageHandler server, Func<(Core.Apis.ApiClient Client, SignInServices Services), Task<T>> use)
    {
        var services = SignInServices.Of(_state, new StateFolder(_folder.Path), new Disk(), new Redactor(), _ => null, _folder.Path, TimeProvider.System, () => 0, new SilentWatch(), new SilentWatch()) with { Senders = new HttpSenders(TimeProvider.System, _folder.Path, server) };
        using var signIns = new SignIns(services);
        var job = AskedJob.Read(AskedJob.Text(order.Address, order.AsksAs, ""), _folder.Path, DateTimeOffset.UnixEpoch);
        await using var client = await ApiClients.OpenAsync(job.Apis[AskedJob.Api], null, signIns, services, CancellationToken.None);
        return await use((client, services));
    }

    private HttpResponseMessage Answer(Func<Ask, string?> api, HttpRequestMessage request)
    {
        lock (Asked)
            Asked.Add(request.RequestUri!.PathAndQuery);
        var headers = new Dictionary<string, string>();
        var query = HttpUtility.ParseQueryString(request.RequestUri!.Query);
        var ask = new Ask(
            request.RequestUri.AbsolutePath,
            query.AllKeys.OfType<string>().ToDictionary(name => name, name => query[name]!),
            request.Headers.ToDictionary(header => header.Key, header => string.Join(",", header.Value)),
            request.Content is null ? "" : request.Content.ReadAsStringAsync().GetAwaiter().GetResult(),
            headers);
        var text = api(ask);
        var answer = FakeServer.Json(text ?? """{"error":"no such request"}""", text is null ? 400 : 200);
        foreach (var (name, value) in headers)
            answer.Headers.TryAddWithoutValidation(name, value);
        return answer;
    }
}

using System.Net;
using System.Text;
using System.Text.Json.Nodes;

namespace Cursiva.Core.Tests.Writes;

/// <summary>An API of documents in memory, which can end the process that asks it before or after it has done what was asked.</summary>
internal sealed class FakeOffice : HttpMessageHandler
{
    private readonly Lock _gate = new();
    private readonly Dictionary<string, int> _keys = new(StringComparer.Ordinal);
    private int _last = 100;
    private int _changes;

    /// <summary>The process ends at so many changing requests; null for never.</summary>
    public int? DiesAt { get; set; }

    /// <summary>Whether what was asked is done all the same.</summary>
    public bool DoneBefore { get; set; }

    /// <summary>Answers a request in place of the office; null lets the office answer.</summary>
    public Func<HttpRequestMessage, HttpResponseMessage?>? Instead { get; set; }

    /// <summary>Does what is asked, and then the connection breaks, so many times.</summary>
    public int AnswersLost { get; set; }

    /// <summary>Rows on a page of a list.</summary>
    public int PageSize { get; set; } = 100;

    public List<JsonObject> Documents { get; } = [];

    public List<string> Requests { get; } = [];

    public List<HttpRequestMessage> Sent { get; } = [];

    public int MostAtOnce { get; private set; }

    private int _inside;

    public JsonObject Add(string title, string body = "old")
    {
        var document = new JsonObject { ["id"] = ++_last, ["title"] = title, ["body"] = body, ["version"] = 1 };
        Documents.Add(document);
        return document;
    }

    protected override async Task<HttpResponseMessage> SendAsync(HttpRequestMessage request, CancellationToken cancellationToken)
    {
        var body = request.Content is null ? "" : await request.Content.ReadAsStringAsync(cancellationToken);
        lock (_gate)
        {
            MostAtOnce = Math.Max(MostAtOnce, ++_inside);
            Requests.Add($"{request.Method} {request.RequestUri!.PathAndQuery} {body}".Trim());
            Sent.Add(request);
        }

        try
        {
            await Task.Yield();
            return Answer(request, body);
        }
        finally
        {
            lock (_gate)
                _inside--;
        }
    }

    private HttpResponseMessage Answer(HttpRequestMessage request, string body)
    {
        lock (_gate)
        {
            if (Instead?.Invoke(request) is { } instead)
                return instead;
            if (request.Method == HttpMethod.Get)
                return Read(request.RequestUri!);
            var dies = ++_changes == DiesAt;
            if (dies && !DoneBefore)
                throw new DiedException();
            var answer = Change(request, body);
            if (dies)
                throw new DiedException();
            if (AnswersLost > 0)
            {
                AnswersLost--;
                throw new HttpRequestException(HttpRequestError.ResponseEnded, "the connection broke");
            }

            return answer;
        }
    }

    private HttpResponseMessage Read(Uri uri)
    {
        var query = System.Web.HttpUtility.ParseQueryString(uri.Query);
        if (uri.AbsolutePath.Split('/') is [.., "documents", var id])
            return Documents.Find(document => document["id"]!.ToString() == id) is { } one ? Json(one.ToJsonString(), 200, one["version"]!) : Json("{}", 404);
        if (uri.AbsolutePath.EndsWith("/boards", StringComparison.Ordinal))
            return Json("""{"items":[{"id":7,"name":"Harbour"},{"id":8,"name":"Rail"}]}""");
        var from = int.Parse(query["from"] ?? "0", System.Globalization.CultureInfo.InvariantCulture);
        var found = Documents.Where(document => query["title"] is not { } title || document["title"]!.ToString().StartsWith(title, StringComparison.Ordinal)).ToList();
        var next = from + PageSize < found.Count ? $",\"next\":\"{uri.AbsolutePath}?from={from + PageSize}&title={query["title"]}\"" : "";
        return Json($"{{\"items\":[{string.Join(',', found.Skip(from).Take(PageSize).Select(document => document.ToJsonString()))}]{next}}}");
    }

    private HttpResponseMessage Change(HttpRequestMessage request, string body)
    {
        if (request.Method == HttpMethod.Post)
        {
            var key = request.Headers.TryGetValues("Idempotency-Key", out var keys) ? keys.Single() : "";
            if (key.Length > 0 && _keys.TryGetValue(key, out var made))
                return Json(Documents.Find(document => (int)document["id"]! == made)!.ToJsonString(), 201);
            var created = new JsonObject { ["id"] = ++_last, ["version"] = 1 };
            Merge(created, body);
            Documents.Add(created);
            if (key.Length > 0)
                _keys[key] = _last;
            return Json(created.ToJsonString(), 201);
        }

        var id = request.RequestUri!.Segments[^1];
        if (Documents.Find(document => document["id"]!.ToString() == id) is not { } found)
            return Json("""{"message":"no such document"}""", 404);
        if (request.Headers.IfMatch.FirstOrDefault() is { } etag && etag.Tag != $"\"v{found["version"]}\"")
            return Json("""{"message":"changed meanwhile"}""", 412);
        if (request.Method == HttpMethod.Delete)
            Documents.Remove(found);
        else
            Merge(found, body);
        found["version"] = (int)found["version"]! + 1;
        return Json(found.ToJsonString(), 200, found["version"]!);
    }

    private static void Merge(JsonObject into, string body)
    {
        foreach (var (name, value) in JsonNode.Parse(body)!.AsObject())
            into[name] = value?.DeepClone();
    }

    public static HttpResponseMessage Json(string text, int status = 200, JsonNode? version = null)
    {
        var answer = new HttpResponseMessage((HttpStatusCode)status) { Content = new StringContent(text, Encoding.UTF8, "application/json") };
        if (version is not null)
            answer.Headers.TryAddWithoutValidation("ETag", $"\"v{version}\"");
        return answer;
    }
}

using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Http;

/// <summary>
/// Answers requests from a recording: those that are alike in their order, and the last of them as often as it is asked for.
/// </summary>
public sealed class RecordedAnswers : HttpMessageHandler
{
    private const int MostShown = 3;
    private static readonly string[] s_pauses = ["Retry-After", "RateLimit", "RateLimit-Remaining", "X-RateLimit-Remaining"];

    private readonly string _name;
    private readonly Redactor _redactor;
    private readonly Dictionary<string, Queue<RecordedExchange>> _answers = new(StringComparer.Ordinal);
    private readonly HashSet<RecordedExchange> _left;
    private readonly bool _forRehearsal;
    private readonly Lock _gate = new();

    /// <summary>Opens a recording for answers.</summary>
    /// <param name="recording">The exchanges.</param>
    /// <param name="name">What messages call the recording.</param>
    /// <param name="redactor">Masks what a recording masks.</param>
    /// <param name="forRehearsal">Whether a whole run is answered: what was tried again then is answered by the last attempt, and no pause
    /// is asked for.</param>
    public RecordedAnswers(Recording recording, string name, Redactor redactor, bool forRehearsal = false)
    {
        (_name, _redactor, _forRehearsal) = (name, redactor, forRehearsal);
        foreach (var exchange in recording.Exchanges)
        {
            if (!_answers.TryGetValue(exchange.Key, out var alike))
                _answers[exchange.Key] = alike = new Queue<RecordedExchange>();
            alike.Enqueue(exchange);
        }

        _left = [.. recording.Exchanges];
    }

    /// <summary>Exchanges that nobody has asked for.</summary>
    public IReadOnlyList<RecordedExchange> Left
    {
        get
        {
            lock (_gate)
                return [.. _left];
        }
    }

    /// <inheritdoc/>
    protected override async Task<HttpResponseMessage> SendAsync(HttpRequestMessage request, CancellationToken cancellationToken)
    {
        var body = request.Content is null ? null : await request.Content.ReadAsStringAsync(cancellationToken);
        var exchange = Take(request.Method.Method, request.RequestUri!, body is null ? null : _redactor.Clean(body));
        if (exchange.Status == 0)
            throw new HttpRequestException(exchange.Comment.Length > 0 ? exchange.Comment : "there was no answer during the recording");
        if (exchange.Body is null)
            throw Refuse(
                $"the recording {_name} has no body for {exchange.Method} {ShownAddress.Of(exchange.Uri)}{(exchange.Comment.Length > 0 ? $" ({exchange.Comment})" : "")}",
                "record again: cursiva run JOB --new --trace FILE; in a browser, save the recording with its content");
        var answer = exchange.Answer();
        answer.RequestMessage = request;
        foreach (var pause in _forRehearsal ? s_pauses : [])
            answer.Headers.Remove(pause);
        return answer;
    }

    private RecordedExchange Take(string method, Uri address, string? body)
    {
        lock (_gate)
        {
            var key = RecordedExchange.KeyOf(method, new Uri(_redactor.Clean(address.AbsoluteUri)), body);
            if (!_answers.TryGetValue(key, out var alike))
                throw Refuse($"the recording {_name} has no {OneLine.Of(key.Split('\n')[0])}", Nearest(method, address));
            var exchange = alike.Count > 1 ? alike.Dequeue() : alike.Peek();
            _left.Remove(exchange);
            while (_forRehearsal
                && alike.Count > 0
                && (exchange.Status == 0 || exchange.Status is 401 || Retries.IsPassing(exchange.Status)))
            {
                if (ReferenceEquals(exchange, alike.Peek()))
                    break;
                exchange = alike.Count > 1 ? alike.Dequeue() : alike.Peek();
                _left.Remove(exchange);
            }

            return exchange;
        }
    }

    private string Nearest(string method, Uri address)
    {
        var same = _answers.Keys
            .Select(key => key.Split('\n')[0])
            .Where(
                key => key.StartsWith($"{method} ", StringComparison.OrdinalIgnoreCase)
                    && Uri.TryCreate(key[(method.Length + 1)..], UriKind.Absolute, out var other)
                    && other.AbsolutePath == address.AbsolutePath)
            .Take(MostShown)
            .Select(OneLine.Of)
            .ToList();
        return same.Count == 0
            ? "it has nothing at that path: the job requests more than when it was recorded; record again: cursiva run JOB --new --trace FILE"
            : $"it has {string.Join(", ", same)}: the job's requests differ from the recording; use the inputs of that run, or record again: cursiva run JOB --new --trace FILE";
    }

    private static RefusedException Refuse(string what, string next) => new(new Refusal(Outcome.ApiFailed, what) { NextStep = next });
}

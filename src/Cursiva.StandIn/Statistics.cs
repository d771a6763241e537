using System.Diagnostics;
using System.Text.Json.Nodes;
using Cursiva.StandIn.Access;

namespace Cursiva.StandIn;

/// <summary>What the stand-in saw. Tests ask it, since only the server knows when a request arrived.</summary>
public sealed class Statistics(StandInOptions options, RefreshDesk refreshes)
{
    private readonly Lock _gate = new();
    private readonly List<ArrivalWindow> _windows = [.. options.Limits.Select(limit => new ArrivalWindow(limit))];
    private readonly SortedDictionary<int, long> _statuses = [];
    private readonly SortedDictionary<string, long> _paths = new(StringComparer.Ordinal);
    private long _requests;
    private long _tokens;
    private long _tokenRequests;
    private long _rows;
    private long _exports;
    private long _credentialsElsewhere;
    private long _ranges;
    private int _inside;
    private int _mostInside;

    /// <summary>Notes that a request to the API arrived now.</summary>
    /// <returns>Its number, from 1, and how long it should have waited (zero when inside the limits).</returns>
    public (long Number, TimeSpan TooEarlyBy) Arrive(string path)
    {
        lock (_gate)
        {
            var now = Stopwatch.GetTimestamp();
            _paths[path] = _paths.GetValueOrDefault(path) + 1;
            var tooEarly = TimeSpan.Zero;
            foreach (var window in _windows)
            {
                var wait = window.Arrive(now);
                if (wait > tooEarly)
                    tooEarly = wait;
            }

            return (++_requests, tooEarly);
        }
    }

    public void Answered(int status)
    {
        lock (_gate)
            _statuses[status] = _statuses.GetValueOrDefault(status) + 1;
    }

    /// <summary>Notes that a request is being answered.</summary>
    public void Enter()
    {
        lock (_gate)
            _mostInside = Math.Max(_mostInside, ++_inside);
    }

    /// <summary>Notes that its answer has left.</summary>
    public void Leave()
    {
        lock (_gate)
            _inside--;
    }

    public void ExportSubmitted() => Interlocked.Increment(ref _exports);

    public void CredentialsElsewhere() => Interlocked.Increment(ref _credentialsElsewhere);

    public void RangeServed() => Interlocked.Increment(ref _ranges);

    public void TokenAsked() => Interlocked.Increment(ref _tokenRequests);

    public void TokenIssued() => Interlocked.Increment(ref _tokens);

    public void RowsServed(int rows) => Interlocked.Add(ref _rows, rows);

    /// <summary>The counts so far, in the shape the statistics endpoint answers with.</summary>
    public JsonObject Snapshot()
    {
        lock (_gate)
        {
            return new JsonObject
            {
                ["requests"] = _requests,
                ["breaches"] = _windows.Sum(window => window.Breaches),
                ["windows"] = new JsonArray([.. _windows.Select(window => new JsonObject
                {
                    ["limit"] = window.Limit.Count,
                    ["seconds"] = window.Limit.Window.TotalSeconds,
                    ["breaches"] = window.Breaches,
                    ["most"] = window.Most,
                })]),
                ["token_requests"] = Interlocked.Read(ref _tokenRequests),
                ["tokens_issued"] = Interlocked.Read(ref _tokens),
                ["renewals"] = refreshes.Counts.Renewals,
                ["families_ended"] = refreshes.Counts.Ended,
                ["families_ended_carelessly"] = refreshes.Counts.Careless,
                ["most_at_once"] = _mostInside,
                ["exports_submitted"] = Interlocked.Read(ref _exports),
                ["credentials_elsewhere"] = Interlocked.Read(ref _credentialsElsewhere),
                ["ranges_served"] = Interlocked.Read(ref _ranges),
                ["rows_served"] = Interlocked.Read(ref _rows),
                ["statuses"] = Counts(_statuses.Select(pair => KeyValuePair.Create(pair.Key.ToString(), (long)pair.Value))),
                ["paths"] = Counts(_paths.OrderBy(pair => pair.Key, StringComparer.Ordinal)),
            };
        }
    }

    private static JsonObject Counts(IEnumerable<KeyValuePair<string, long>> counts) =>
        new(counts.Select(pair => KeyValuePair.Create(pair.Key, (JsonNode?)pair.Value)));
}

using System.Text.Encodings.Web;
using System.Text.Json;
using System.Text.Json.Nodes;

namespace Cursiva.StandIn.Office;

/// <summary>What was written at the office, and how often it was written twice. <c>GET /office</c> shows it.</summary>
/// <param name="path">A file that has the notices after every change, as people read them; null for none.</param>
public sealed class OfficeBook(string? path)
{
    private static readonly JsonSerializerOptions s_plain = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private readonly Lock _gate = new();
    private readonly SortedDictionary<int, JsonObject> _notices = [];
    private readonly Dictionary<string, int> _titles = new(StringComparer.Ordinal);
    private readonly Dictionary<string, int> _keys = new(StringComparer.Ordinal);
    private readonly SortedDictionary<string, long> _counts = new(StringComparer.Ordinal);
    private readonly SortedDictionary<string, JsonObject> _files = new(StringComparer.Ordinal);
    private readonly List<JsonNode?> _messages = [];
    private readonly HashSet<string> _assignments = new(StringComparer.Ordinal);
    private int _last = 100;

    public void Map(IEndpointRouteBuilder routes) => routes.MapGet("/office", () => JsonAnswer.Of(Snapshot()));

    /// <summary>Copies of all notices, in the order in which they were made.</summary>
    public IReadOnlyList<JsonObject> Notices()
    {
        lock (_gate)
            return [.. _notices.Values.Select(notice => (JsonObject)notice.DeepClone())];
    }

    /// <summary>A copy of a notice; null for none.</summary>
    public JsonObject? Find(int id)
    {
        lock (_gate)
            return (JsonObject?)_notices.GetValueOrDefault(id)?.DeepClone();
    }

    /// <summary>Makes a notice, or gives the one that was made under the same key.</summary>
    public JsonObject Create(string key, JsonObject body)
    {
        lock (_gate)
        {
            if (key.Length > 0 && _keys.TryGetValue(key, out var made))
            {
                Count("created-again-by-key");
                return (JsonObject)_notices[made].DeepClone();
            }

            var title = body["title"]?.ToString() ?? "";
            if (_titles.GetValueOrDefault(title) > 0)
                Count("created-twice");
            _titles[title] = _titles.GetValueOrDefault(title) + 1;
            var notice = new JsonObject { ["id"] = ++_last, ["version"] = 1 };
            foreach (var (name, value) in body)
                notice[name] = value?.DeepClone();
            _notices[_last] = notice;
            if (key.Length > 0)
                _keys[key] = _last;
            Count("created");
            return (JsonObject)notice.DeepClone();
        }
    }

    /// <summary>Changes a notice.</summary>
    /// <param name="whole">Whether members that are not in the body go.</param>
    public JsonObject Change(JsonObject notice, JsonObject body, bool whole)
    {
        lock (_gate)
        {
            var id = (int)notice["id"]!;
            var changed = whole ? new JsonObject { ["id"] = id } : (JsonObject)_notices[id].DeepClone();
            changed["version"] = (int)_notices[id]["version"]! + 1;
            foreach (var (name, value) in body)
                changed[name] = value?.DeepClone();
            _notices[id] = changed;
            Count("changed");
            return (JsonObject)changed.DeepClone();
        }
    }

    public void Remove(JsonObject notice)
    {
        lock (_gate)
        {
            _notices.Remove((int)notice["id"]!);
            _titles[notice["title"]?.ToString() ?? ""]--;
            Count("removed");
        }
    }

    /// <summary>Gives a person a role.</summary>
    /// <returns>Whether the person did not have it.</returns>
    public bool Assign(string person, string role)
    {
        lock (_gate)
        {
            Count(_assignments.Contains($"{person} {role}") ? "assigned-twice" : "assigned");
            return _assignments.Add($"{person} {role}");
        }
    }

    /// <summary>Takes a file in place of an earlier one.</summary>
    public void Put(string name, JsonObject file)
    {
        lock (_gate)
        {
            _files[name] = file;
            Count("files-put");
        }
    }

    /// <summary>A file's facts; null for none.</summary>
    public JsonObject? File(string name)
    {
        lock (_gate)
            return (JsonObject?)_files.GetValueOrDefault(name)?.DeepClone();
    }

    public bool Drop(string name)
    {
        lock (_gate)
            return _files.Remove(name);
    }

    public void Say(JsonNode? message)
    {
        lock (_gate)
            _messages.Add(message);
    }

    private JsonObject Snapshot()
    {
        lock (_gate)
        {
            return new JsonObject
            {
                ["notices"] = new JsonArray([.. _notices.Values.Select(notice => notice.DeepClone())]),
                ["assignments"] = new JsonArray([.. _assignments.Order(StringComparer.Ordinal).Select(text => (JsonNode)text)]),
                ["files"] = new JsonObject(_files.Select(file => KeyValuePair.Create(file.Key, (JsonNode?)file.Value.DeepClone()))),
                ["messages"] = new JsonArray([.. _messages.Select(message => message?.DeepClone())]),
                ["counts"] = new JsonObject(_counts.Select(pair => KeyValuePair.Create(pair.Key, (JsonNode?)pair.Value))),
            };
        }
    }

    private void Count(string what)
    {
        _counts[what] = _counts.GetValueOrDefault(what) + 1;
        if (path is not null)
            System.IO.File.WriteAllLines(path, _notices.Values.Select(notice => notice.ToJsonString(s_plain)));
    }
}

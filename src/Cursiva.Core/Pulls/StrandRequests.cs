using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Cursiva.Core.Apis;
using Cursiva.Core.Encryption;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Pulls;

/// <summary>Makes the requests of one strand: placeholders filled in, and the position where paging sends it.</summary>
internal sealed class StrandRequests
{
    private readonly Pull _pull;
    private readonly ApiClient _client;
    private readonly IReadOnlyList<KeyValuePair<string, string>> _headers;
    private readonly IReadOnlyList<KeyValuePair<string, string>> _secretQuery;
    private readonly JsonNode? _body;
    private readonly Func<IReadOnlyDictionary<string, string>, Uri> _address;
    private readonly Pager? _pager;
    private readonly Strand _strand;
    private readonly DocumentSchemas _schemas;

    private StrandRequests(
        Pull pull,
        ApiClient client,
        Strand strand,
        Func<string,
        string?> value,
        Func<IReadOnlyDictionary<string,
        string>,
        Uri> address,
        IReadOnlyList<KeyValuePair<string,
        string>> secretQuery,
        IReadOnlyList<KeyValuePair<string,
        string>> headers,
        JsonNode? body,
        DocumentSchemas schemas)
    {
        _schemas = schemas;
        _strand = strand;
        Value = value;
        _secretQuery = secretQuery;
        _pull = pull;
        _client = client;
        _address = address;
        _headers = headers;
        _body = body;
        _pager = ListingStyle.Of(pull.Paging) as Pager;
        First = At(_pager?.First).Uri;
    }

    /// <summary>What a placeholder's name is filled in with; null when it has no value.</summary>
    public Func<string, string?> Value { get; }

    /// <summary>The id of what the request submits, where it submits an export.</summary>
    public string SubmissionId => _strand.Values.Text(ExportSteps.Submission)!;

    /// <summary>Whether the request tells the API the id of what it submits.</summary>
    public bool SendsSubmission => new NamesOfRequest(_pull).All.Contains(ExportSteps.Submission);

    /// <summary>The address of the first page.</summary>
    public Uri First { get; }

    /// <param name="inputs">The job's inputs, by name.</param>
    /// <param name="mark">The mark of the last good run; null for none.</param>
    /// <param name="delta">The delta token or link of the last good run; null for none.</param>
    /// <exception cref="RefusedException">A value is missing that the path needs, or a link leaves the API.</exception>
    public static async Task<StrandRequests> OpenAsync(
        Pull pull,
        ApiClient client,
        IReadOnlyDictionary<string,
        string> inputs,
        Strand strand,
        string? mark,
        string? delta,
        SecretSources secrets,
        DocumentSchemas schemas,
        CancellationToken cancel)
    {
        if (pull.Export is not null && strand.Values.Text(ExportSteps.Submission) is null)
            strand = strand with { Values = strand.Values.With(ExportSteps.Submission, Submission.NewId()) };
        string? Value(string name) => name == Incremental.Mark && pull.Incremental is not null
            ? mark
            : strand.Values.Text(name) ?? inputs.GetValueOrDefault(name) ?? client.TokenFields.GetValueOrDefault(name);
        var headers = new List<KeyValuePair<string, string>>();
        foreach (var (name, declared) in pull.Request.Headers)
        {
            if (declared.TryFill(Value) is { } filled)
                headers.Add(new(name, Fits(pull, strand, name, (await secrets.ReadAsync(filled, cancel)).Reveal())));
        }

        var body = pull.Request.Body is null
            ? null
            : await FilledBody.OfAsync(pull.Request.Body, Value, strand.Values.Json, secrets, cancel);
        var secretQuery = new List<KeyValuePair<string, string>>();
        var query = new List<KeyValuePair<string, string>>();
        foreach (var (name, declared) in strand.IsOpened ? [] : pull.Request.Query)
        {
            if (declared.TryFill(Value) is not { } filled)
                continue;
            if (filled.Source is null
                && pull.Request.Repeated.Contains(name)
                && declared.OnlyName is { } only
                && strand.Values.Items(only) is { } items)
                query.AddRange(items.Select(item => KeyValuePair.Create(name, item)));
            else if (filled.Source is null)
                query.Add(new(name, filled.Text));
            else
                secretQuery.Add(new(name, (await secrets.ReadAsync(filled, cancel)).Reveal()));
        }

        // Of one page or another: paging may fill in a placeholder of the path.
        Uri AddressOf(IReadOnlyDictionary<string, string> placed)
        {
            var address = delta is not null && pull.Paging.DeltaParameter is null
                ? new Uri(delta)
                : Address(pull, client, strand, inputs, name => placed.GetValueOrDefault(name) ?? Value(name), placed);
            foreach (var (name, text) in query)
                address = AddressQuery.With(address, name, text, add: true);
            if (pull.Paging is { SizeParameter: { } size, PageSize: { } rows })
                address = AddressQuery.With(address, size, rows.ToString(System.Globalization.CultureInfo.InvariantCulture));
            return delta is not null && pull.Paging.DeltaParameter is { } parameter
                ? AddressQuery.With(address, parameter, delta)
                : address;
        }

        var usual = new Lazy<Uri>(() => AddressOf(new Dictionary<string, string>()));
        var requests = new StrandRequests(
            pull,
            client,
            strand,
            Value,
            placed => placed.Count == 0 ? usual.Value : AddressOf(placed),
            secretQuery,
            headers,
            body,
            schemas);
        client.CheckWithin(requests.First, null);
        return requests;
    }

    /// <summary>An address as it may be kept: without the query parameters that are secrets, which servers repeat in their links.</summary>
    public Uri Kept(Uri address) =>
        AddressQuery.Without(address, _secretQuery.Select(parameter => parameter.Key).Concat(_client.SecretParameters));

    /// <summary>The address of another path of the API, placeholders filled in.</summary>
    /// <exception cref="RefusedException">A value is missing that the path needs, or does not fit there.</exception>
    public Uri AddressOf(string path)
    {
        var values = new Dictionary<string, object>(StringComparer.Ordinal);
        foreach (var name in PathTemplate.Names(path, out _))
        {
            if (Value(name) is { } found)
                values[name] = found;
            else if (PathTemplate.NeedsValue(path, name))
                throw Missing(_pull, _strand, "{" + name + "}");
        }

        return Within(_pull, _client, _strand, PathTemplate.Expand(path, values));
    }

    /// <summary>The request for a position; null for the first page of a listing that counts nothing.</summary>
    /// <exception cref="RefusedException">Its body does not fit the pull's schema.</exception>
    public ApiRequest At(string? position)
    {
        var first = new AskedPage(new HttpMethod(_pull.Request.Method), _address, _headers, _body);
        var asked = position is null || _pager is null ? first : _pager.Ask(first, position);
        CheckBody(asked.Body);
        return new ApiRequest(asked.Method, asked.Address)
        {
            Headers = asked.Headers,
            SecretQuery = _secretQuery,
            Accept = Accept,
            Body = asked.Body is null ? null : Bytes(asked.Body),
            BodyType = _pull.Request.BodyIsForm ? "application/x-www-form-urlencoded" : "application/json",
        };
    }

    private string Accept =>
        _pull.Request.Accept != "application/json" || !_pull.Paging.Style.IsStream ? _pull.Request.Accept : _pull.Paging.Stream switch
        {
            StreamForm.Lines => "application/x-ndjson, application/jsonl, application/json",
            StreamForm.Sequence => "application/json-seq, application/json",
            StreamForm.Csv => "text/csv",
            StreamForm.Array => _pull.Request.Accept,
        };

    private void CheckBody(JsonNode? body)
    {
        if (_pull.BodySchema is { } schema && body is not null && _schemas.Objection(schema, Bytes(body)) is { } objection)
        {
            throw new RefusedException(new Refusal(
                Outcome.ApiFailed,
                $"pull '{_pull.Name}' was not fetched{(_strand.Title.Length > 0 ? $" ({OneLine.Of(_strand.Title)})" : "")}: its body does not match {schema}: {objection}")
            {
                NextStep = "correct body: of the pull, or the values that it fills in",
            });
        }
    }

    private byte[] Bytes(JsonNode body)
    {
        if (!_pull.Request.BodyIsForm || body is not JsonObject form)
            return Encoding.UTF8.GetBytes(body.ToJsonString());
        return Encoding.UTF8.GetBytes(
            string.Join(
                '&',
                form.Select(
                    pair => $"{Uri.EscapeDataString(pair.Key)}={Uri.EscapeDataString(pair.Value is JsonValue value && value.GetValueKind() == JsonValueKind.String ? value.GetValue<string>() : pair.Value?.ToJsonString() ?? "")}")));
    }

    private static Uri Address(
        Pull pull,
        ApiClient client,
        Strand strand,
        IReadOnlyDictionary<string,
        string> inputs,
        Func<string,
        string?> value,
        IReadOnlyDictionary<string,
        string> placed)
    {
        if (pull.Request.IsLink && !strand.IsOpened)
        {
            var template = Template.TryParse(pull.Request.Path, out _)!;
            if (!template.Names.All(name => value(name) is not null))
                throw Missing(pull, strand, pull.Request.Path);
            var link = AddressTemplate.Fill(template, name => value(name)!, _ => true, out var wrong, mayLead: true);
            if (wrong is not null)
                throw Unfit(pull, strand, $"{{{wrong.Name}}} would be {wrong.What}");
            return Uri.TryCreate(client.Address(""), link, out var address) && address.Scheme is "http" or "https"
                ? address
                : throw Missing(pull, strand, $"{pull.Request.Path}, which is not an address: '{OneLine.Of(link)}'");
        }

        var path = strand.IsOpened ? pull.Opens!.Path : pull.Request.Path;
        var values = new Dictionary<string, object>(StringComparer.Ordinal);
        foreach (var name in PathTemplate.Names(path, out _))
        {
            if ((name == Incremental.Mark && pull.Incremental is not null
                ? value(name)
                : placed.GetValueOrDefault(name)
                    ?? strand.Values.ForPath(name)
                    ?? inputs.GetValueOrDefault(name)
                    ?? client.TokenFields.GetValueOrDefault(name)) is { } found)
                values[name] = found;
            else if (PathTemplate.NeedsValue(path, name)
                && !pull.Paging.Targets.Any(target => target.Kind == PositionTargetKind.Placeholder && target.Name == name))
                throw Missing(pull, strand, "{" + name + "}");
        }

        return Within(pull, client, strand, PathTemplate.Expand(path, values));
    }

    private static Uri Within(Pull pull, ApiClient client, Strand strand, string path) =>
        Confines.Path(path.Split('?')[0]) is { } upwards
            ? throw Unfit(pull, strand, $"its path would contain {upwards}")
            : client.Address(path);

    private static string Fits(Pull pull, Strand strand, string header, string value) =>
        Confines.Header(value) is { } wrong ? throw Unfit(pull, strand, $"its header {header} would contain {wrong}") : value;

    private static RefusedException Unfit(Pull pull, Strand strand, string what) =>
        new(new Refusal(
            Outcome.ApiFailed,
            $"a strand of pull '{pull.Name}' was not fetched: {what}{(strand.Title.Length > 0 ? $" ({OneLine.Of(strand.Title)})" : "")}")
        {
            Cause = "a value of the strand's row is not valid where the job uses it",
            NextStep = "exclude such rows: repeat the pull for a query over the earlier one",
        });

    private static RefusedException Missing(Pull pull, Strand strand, string what) =>
        new(new Refusal(
            Outcome.ApiFailed,
            $"a strand of pull '{pull.Name}' has no value for {what}{(strand.Title.Length > 0 ? $" ({OneLine.Of(strand.Title)})" : "")}")
        {
            Cause = "the strand's row has no such field, or null",
            NextStep = "correct the name, or exclude such rows: repeat the pull for a query over the earlier one",
        });
}

using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Apis;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Writes;

/// <summary>
/// Makes the requests of steps. What came from outside stays in its slot: encoded in a path, one line in a header (promise 12).
/// </summary>
internal sealed class StepRequests(ApiClient client, SecretSources secrets)
{
    /// <summary>The request of a step.</summary>
    /// <param name="key">What no other sending of the step has: its Idempotency-Key.</param>
    /// <exception cref="ItemRefusedException">A value is missing, or does not fit.</exception>
    public async Task<ApiRequest> MakeAsync(WriteStep step, ItemValues values, StepBody body, string key, CancellationToken cancel)
    {
        var inPath = PathTemplate.Names(step.Path, out _).ToHashSet(StringComparer.Ordinal);
        var address = step.IsLink ? Link(step, values) : client.Address(Path(step, values));
        var secretQuery = new List<KeyValuePair<string, string>>();
        foreach (var (name, declared) in step.Query.Where(pair => !inPath.Contains(pair.Key) || pair.Value.IsSource))
        {
            if (declared.TryFill(values.Text) is not { } filled)
                continue;
            if (filled.Source is null)
                address = AddressQuery.With(address, name, filled.Text, add: true);
            else
                secretQuery.Add(new(name, (await secrets.ReadAsync(filled, cancel)).Reveal()));
        }

        var headers = new List<KeyValuePair<string, string>>();
        foreach (var (name, declared) in step.Headers)
        {
            if (declared.TryFill(values.Text) is { } filled)
                headers.Add(new(name, OnOneLine(name, (await secrets.ReadAsync(filled, cancel)).Reveal())));
        }

        if (step.IfMatch is { } etag)
            headers.Add(new("If-Match", OnOneLine("If-Match", etag.Fill(values.Needed))));
        if (step.SendsDigest)
            headers.Add(
                new("Content-Digest", $"sha-256=:{Convert.ToBase64String(Convert.FromHexString(values.Needed(FileValues.Digest)))}:"));
        if (step.SendsKey)
            headers.Add(new("Idempotency-Key", key));
        return new ApiRequest(new HttpMethod(step.Method.ToString().ToUpperInvariant()), address)
        {
            Headers = headers,
            SecretQuery = secretQuery,
            Body = body.Bytes,
            Parts = body.Parts,
            Bare = step.IsLink,
            BodyType = body.Type,
            Accept = "application/json, */*;q=0.5",
            Verbatim = !step.IsLook,
            Once = !step.MayRepeat,
            Finishes = !step.IsLook,
        };
    }

    /// <summary>The Idempotency-Key of a step of an item in a run: a name-based UUID (RFC 9562 section 5.8).</summary>
    public static string KeyOf(string job, string write, ItemEntry entry, string step)
    {
        var bytes = SHA256.HashData(
            Encoding.UTF8.GetBytes(
                DeclarationKey.Of(
                [
                    job,
                    write,
                    entry.Key,
                    entry.Digest,
                    (entry.Begun > 0 ? entry.Begun : entry.Run).ToString(System.Globalization.CultureInfo.InvariantCulture),
                    step,
                ])))[..16];
        bytes[6] = (byte)((bytes[6] & 0x0F) | 0x80);
        bytes[8] = (byte)((bytes[8] & 0x3F) | 0x80);
        return new Guid(bytes, bigEndian: true).ToString();
    }

    // An address that an answer gave, to an origin that the job declares.
    private Uri Link(WriteStep step, ItemValues values)
    {
        var text = values.Needed(PathTemplate.Names(step.Path, out _)[0]);
        if (!Uri.TryCreate(client.Address(""), text, out var address) || address.Scheme is not ("http" or "https"))
            throw new ItemRefusedException($"step '{step.Name}' got '{OneLine.Of(text)}' as an address");
        client.CheckWithin(address, null);
        return address;
    }

    private static string Path(WriteStep step, ItemValues values)
    {
        var filled = new Dictionary<string, object>(StringComparer.Ordinal);
        foreach (var name in PathTemplate.Names(step.Path, out _))
        {
            if ((step.Query.FirstOrDefault(pair => pair.Key == name).Value is { IsSource: false } given
                ? given.TryFill(values.Text)?.Text
                : values.Text(name)) is { Length: > 0 } text)
                filled[name] = text;
            else if (PathTemplate.NeedsValue(step.Path, name))
                throw new ItemRefusedException($"{{{name}}} in the path of step '{step.Name}' has no value");
        }

        var path = PathTemplate.Expand(step.Path, filled);
        return Confines.Path(path.Split('?')[0]) is { } upwards
            ? throw new ItemRefusedException($"the path of step '{step.Name}' would contain {upwards}")
            : path;
    }

    private static string OnOneLine(string header, string value) =>
        Confines.Header(value) is { } wrong ? throw new ItemRefusedException($"the header {header} would contain {wrong}") : value;
}

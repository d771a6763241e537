using System.Globalization;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;

// The programs that Cursiva is measured against: WHAT ADDRESS [FILE]
//   discard   reads all pages and throws the bytes away; finds the next cursor with a search from the end
//   copy      the same, and writes the pages to one file, flushed at the end
//   checkpoints   lands 1,000 pages into the folder ADDRESS, commits FILE: "every" 250 ms or at the "end"; prints seconds
//   loop      HttpClient, JsonDocument and a CSV file: what one would write by hand
//   nothing   ends at once: an empty program
if (args[0] == "nothing")
    return;
var (what, address, file) = (args[0], args[1], args.Length > 2 ? args[2] : "");
if (what == "checkpoints")
{
    Console.WriteLine((await Checkpoints.LandAsync(address, everyGroup: file == "every")).ToString(CultureInfo.InvariantCulture));
    return;
}

using var http = new HttpClient();
http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", await TokenAsync());
switch (what)
{
    case "discard":
        await BytesAsync(null);
        break;
    case "copy":
        await using (var output = File.Create(file))
        {
            await BytesAsync(output);
            output.Flush(flushToDisk: true);
        }

        break;
    case "loop":
        await LoopAsync();
        break;
    default:
        throw new ArgumentException($"unknown: {what}");
}

async Task<string> TokenAsync()
{
    using var request = new HttpRequestMessage(HttpMethod.Post, address + "/oauth2/token")
    {
        Content = new FormUrlEncodedContent([new("grant_type", "client_credentials"), new("client_id", "brackwater-demo"), new("client_secret", "not-a-real-secret")]),
    };
    using var answer = await http.SendAsync(request);
    using var document = JsonDocument.Parse(await answer.Content.ReadAsStreamAsync());
    return document.RootElement.GetProperty("access_token").GetString()!;
}

async Task BytesAsync(FileStream? output)
{
    var buffer = new byte[1024 * 1024];
    for (var next = address + "/v2/consignments"; next is not null;)
    {
        using var answer = await http.GetAsync(next, HttpCompletionOption.ResponseHeadersRead);
        await using var body = await answer.EnsureSuccessStatusCode().Content.ReadAsStreamAsync();
        var length = 0;
        for (var read = 1; read > 0; length += read)
        {
            if (length == buffer.Length)
                Array.Resize(ref buffer, buffer.Length * 2);
            read = await body.ReadAsync(buffer.AsMemory(length));
        }

        output?.Write(buffer, 0, length);
        next = Cursor(buffer.AsSpan(0, length)) is { } cursor ? $"{address}/v2/consignments?cursor={cursor}" : null;
    }
}

static string? Cursor(ReadOnlySpan<byte> page)
{
    var start = page.LastIndexOf("\"cursor\":\""u8);
    if (start < 0)
        return null;
    var value = page[(start + 10)..];
    return Encoding.ASCII.GetString(value[..value.IndexOf((byte)'"')]);
}

async Task LoopAsync()
{
    await using var csv = new StreamWriter(file);
    string[]? names = null;
    for (string? next = address + "/v2/consignments"; next is not null;)
    {
        using var document = JsonDocument.Parse(await http.GetStringAsync(next));
        foreach (var row in document.RootElement.GetProperty("items").EnumerateArray())
        {
            if (names is null)
            {
                names = [.. row.EnumerateObject().Select(property => property.Name)];
                csv.Write(string.Join(',', names) + "\r\n");
            }

            csv.Write(string.Join(',', names.Select(name => Quoted(row.GetProperty(name)))) + "\r\n");
        }

        var cursor = document.RootElement.GetProperty("page").GetProperty("cursor").GetString();
        next = cursor is null ? null : $"{address}/v2/consignments?cursor={cursor}";
    }
}

static string Quoted(JsonElement value)
{
    var text = value.ValueKind switch
    {
        JsonValueKind.Null => "",
        JsonValueKind.String => value.GetString()!,
        _ => Convert.ToString(value.GetRawText(), CultureInfo.InvariantCulture)!,
    };
    return text.AsSpan().IndexOfAny(",\"\r\n") < 0 ? text : "\"" + text.Replace("\"", "\"\"") + "\"";
}

using System.CommandLine;
using System.CommandLine.Parsing;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using Cursiva.Core.Refusals;

namespace Cursiva.Cli.Commands;

/// <summary>
/// The body of a call: a text, a file, a form (RFC 3986 escapes, WHATWG form), or parts (RFC 7578). Nothing in a text stands for a file.
/// </summary>
internal sealed class CallBody
{
    private readonly Option<string?> _text = new("--body") { Description = "the body, written out here" };
    private readonly Option<string?> _file = new("--body-from") { Description = "a file with the body; - for standard input" };
    private readonly Option<string[]> _form = Pairs("--form", "NAME=VALUE, a field of a form; can be repeated");
    private readonly Option<string[]> _part = Pairs("--part", "NAME=VALUE, a part of a multipart form; can be repeated");
    private readonly Option<string[]> _partFrom = Pairs("--part-from", "NAME=FILE, a part with a file's content; can be repeated");

    public IEnumerable<Option> Options => [_text, _file, _form, _part, _partFrom];

    /// <summary>Tells a command line that gives two bodies.</summary>
    public void Check(CommandResult result)
    {
        string[] given = [.. new[] { Given(result, _text), Given(result, _file), Given(result, _form), Given(result, _part)
            ?? Given(result, _partFrom) }.OfType<string>()];
        if (given.Length > 1)
            result.AddError($"{given[0]} and {given[1]} both give the body; use only one of them");
        foreach (var option in new[] { _form, _part, _partFrom })
        {
            foreach (var pair in result.GetValue(option)!.Where(pair => pair.IndexOf('=', StringComparison.Ordinal) < 1))
                result.AddError($"{option.Name} '{pair}' is not {(option == _partFrom ? "NAME=FILE" : "NAME=VALUE")}");
        }
    }

    /// <summary>The body and its media type; null for none.</summary>
    /// <exception cref="RefusedException">A file cannot be read.</exception>
    public async Task<(byte[] Content, string Type)?> ReadAsync(ParseResult parsed, CancellationToken cancel)
    {
        if (parsed.GetValue(_text) is { } text)
            return (Encoding.UTF8.GetBytes(text), TypeOf(Encoding.UTF8.GetBytes(text)));
        if (parsed.GetValue(_file) is { } file)
        {
            var content = await ReadAsync("--body-from", file, cancel);
            return (content, TypeOf(content));
        }

        if (parsed.GetValue(_form) is { Length: > 0 } form)
            return await WriteAsync(new FormUrlEncodedContent(form.Select(Pair)), cancel);
        if (parsed.GetValue(_part)!.Length + parsed.GetValue(_partFrom)!.Length == 0)
            return null;

        using var parts = new MultipartFormDataContent();
        foreach (var (name, value) in parsed.GetValue(_part)!.Select(Pair))
            parts.Add(new StringContent(value), Quoted(name));
        foreach (var (name, path) in parsed.GetValue(_partFrom)!.Select(Pair))
            parts.Add(
                new ByteArrayContent(await ReadAsync("--part-from", path, cancel))
                {
                    Headers = { ContentType = new MediaTypeHeaderValue("application/octet-stream") },
                },
                Quoted(name),
                Quoted(Path.GetFileName(path)));
        return await WriteAsync(parts, cancel);
    }

    private static async Task<(byte[], string)> WriteAsync(HttpContent content, CancellationToken cancel) =>
        (await content.ReadAsByteArrayAsync(cancel), content.Headers.ContentType!.ToString());

    private static Task<byte[]> ReadAsync(string option, string file, CancellationToken cancel) => InputFile.ReadAsync(
        file,
        why => new Refusal(Outcome.WrongCommandLine, $"the file '{file}' of {option} cannot be read: {why}")
        {
            NextStep = "name an existing file that you can read; nothing was sent",
        },
        cancel);

    // What is not JSON may be anything: --header Content-Type=... says what.
    private static string TypeOf(byte[] content)
    {
        try
        {
            using var json = JsonDocument.Parse(content);
            return "application/json";
        }
        catch (JsonException)
        {
            return "text/plain; charset=utf-8";
        }
    }

    private static string Quoted(string name) => '"' + name.Replace("\\", "\\\\").Replace("\"", "\\\"") + '"';

    private static string? Given(CommandResult result, Option option) =>
        result.GetResult(option) is { Implicit: false } ? option.Name : null;

    private static KeyValuePair<string, string> Pair(string text) =>
        KeyValuePair.Create(text[..text.IndexOf('=', StringComparison.Ordinal)], text[(text.IndexOf('=', StringComparison.Ordinal) + 1)..]);

    private static Option<string[]> Pairs(string name, string description) => new(name)
    {
        Description = description,
        DefaultValueFactory = _ => [],
    };
}

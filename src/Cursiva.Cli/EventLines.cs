using System.Buffers;
using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Cli;

/// <summary>
/// What a command tells beside the events of a run, as lines of <c>--log json</c>: refusals, mistakes, notes, and how it ended.
/// </summary>
/// <param name="writer">Takes the lines; no secret passes it.</param>
internal sealed class EventLines(TextWriter writer, TimeProvider clock)
{
    private static readonly JsonWriterOptions s_plain = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    private readonly long _start = clock.GetTimestamp();

    /// <summary>The job's name, once it is known.</summary>
    public string? Job { get; set; }

    /// <summary>The run's number, once it is known.</summary>
    public int? Run { get; set; }

    /// <summary>Fields of the last line that the command adds, such as the rows of a run.</summary>
    public IReadOnlyList<KeyValuePair<string, object?>> Ended { get; set; } = [];

    /// <summary>Whether a command line asks for these lines.</summary>
    public static bool AreAskedFor(IReadOnlyList<string> arguments) =>
        arguments.Contains("--log=json")
            || arguments.Index().Any(
                argument => argument.Item == "--log"
                    && arguments.Skip(argument.Index + 1).TakeWhile(value => !value.StartsWith('-')).Contains("json"));

    /// <summary>Writes a line.</summary>
    /// <param name="fields">Texts, numbers and lists of texts; what is null is omitted.</param>
    public void Write(string name, string level, string message, params IReadOnlyList<KeyValuePair<string, object?>> fields)
    {
        var bytes = new ArrayBufferWriter<byte>();
        using (var json = new Utf8JsonWriter(bytes, s_plain))
        {
            json.WriteStartObject();
            json.WriteString("time", clock.GetUtcNow().UtcDateTime.ToString("yyyy-MM-dd'T'HH:mm:ss.fff'Z'", CultureInfo.InvariantCulture));
            json.WriteString("level", level);
            json.WriteString("event", name);
            if (Job is not null)
                json.WriteString("job", Job);
            if (Run is { } run)
                json.WriteNumber("run", run);
            json.WriteString("message", message);
            foreach (var (field, value) in fields)
                Field(json, field, value);
            json.WriteEndObject();
        }

        writer.Write(OneLine.Of(Encoding.UTF8.GetString(bytes.WrittenSpan)) + "\n");
        writer.Flush();
    }

    /// <summary>A refusal.</summary>
    /// <param name="refusal">Without secrets, its commands such that they can be pasted.</param>
    /// <param name="resume">The command that resumes; null where there is nothing to resume.</param>
    public void Refused(Refusal refusal, string? resume) => Write(
        "refused", "error", refusal.What,
        new("request", refusal.Request), new(
            "answer",
            refusal.Quote), new("cause", refusal.Cause), new(
                "others", refusal.Others.Count > 0 ? refusal.Others : null), new("next-step", refusal.NextStep), new("resume", resume), new(
            "diagnosis", refusal.Diagnosis));

    /// <summary>A mistake of the job.</summary>
    public void Mistaken(Mistake mistake) => Write(
        "mistake", "error", mistake.ToString(),
        new("file", mistake.Place.File), new(
            "line", mistake.Place.Line), new("column", mistake.Place.Column), new("found", mistake.Found), new(
            "right", mistake.Right));

    /// <summary>The last line: how the command ended.</summary>
    public void End(int code)
    {
        var word = JsonNamingPolicy.KebabCaseLower.ConvertName(((Outcome)code).ToString());
        Write(
            "ended",
            code == 0 ? "info" : "error",
            $"ended with code {code}: {word}",
            [
                new("exit-code", code),
                new("outcome", word),
                new("took-s", Math.Round(clock.GetElapsedTime(_start).TotalSeconds, 3)),
                .. Ended,
            ]);
    }

    private static void Field(Utf8JsonWriter json, string name, object? value)
    {
        switch (value)
        {
            case null:
                break;
            case int whole:
                json.WriteNumber(name, whole);
                break;
            case long whole:
                json.WriteNumber(name, whole);
                break;
            case double number:
                json.WriteNumber(name, number);
                break;
            case IReadOnlyList<string> list:
                json.WriteStartArray(name);
                foreach (var item in list)
                    json.WriteStringValue(item);
                json.WriteEndArray();
                break;
            default:
                json.WriteString(name, value.ToString());
                break;
        }
    }
}

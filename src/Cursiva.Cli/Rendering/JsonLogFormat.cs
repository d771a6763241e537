using System.Buffers;
using System.Globalization;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using Serilog.Events;
using Serilog.Formatting;
using Serilog.Formatting.Display;

namespace Cursiva.Cli.Rendering;

/// <summary>
/// A line of <c>--log json</c>: <c>time</c> (RFC 3339, UTC), <c>level</c>, <c>event</c>, <c>job</c>, <c>run</c>, <c>message</c>, and the
/// fields of the event in kebab-case.
/// </summary>
internal sealed class JsonLogFormat : ITextFormatter
{
    private static readonly JsonWriterOptions s_plain = new() { Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping };
    private static readonly MessageTemplateTextFormatter s_message = new("{Message:l}", new LogWords());
    private static readonly string[] s_first = [LogView.EventField, LogView.JobField, LogView.RunField];

    public void Format(LogEvent logEvent, TextWriter output)
    {
        var bytes = new ArrayBufferWriter<byte>();
        using (var writer = new Utf8JsonWriter(bytes, s_plain))
        {
            writer.WriteStartObject();
            writer.WriteString(
                "time", logEvent.Timestamp.UtcDateTime.ToString("yyyy-MM-dd'T'HH:mm:ss.fff'Z'", CultureInfo.InvariantCulture));
            writer.WriteString("level", LevelOf(logEvent.Level));
            foreach (var name in s_first.Where(logEvent.Properties.ContainsKey))
                Write(writer, name, logEvent.Properties[name]);
            writer.WriteString("message", MessageOf(logEvent));
            foreach (var (name, value) in logEvent.Properties.Where(field => !s_first.Contains(field.Key)))
                Write(writer, name, value);
            if (logEvent.Exception is { } error)
                writer.WriteString("exception", error.ToString());
            writer.WriteEndObject();
        }

        output.Write(Encoding.UTF8.GetString(bytes.WrittenSpan));
    }

    // As the plain line has it: values without quotes.
    private static string MessageOf(LogEvent logEvent)
    {
        using var text = new StringWriter(CultureInfo.InvariantCulture);
        s_message.Format(logEvent, text);
        return text.ToString();
    }

    private static void Write(Utf8JsonWriter writer, string name, LogEventPropertyValue value)
    {
        var scalar = (value as ScalarValue)?.Value;
        writer.WritePropertyName(JsonNamingPolicy.KebabCaseLower.ConvertName(name) + (scalar is TimeSpan ? "-s" : ""));
        switch (scalar)
        {
            case TimeSpan span:
                writer.WriteNumberValue(span.TotalSeconds);
                break;
            case null:
                writer.WriteNullValue();
                break;
            case int number:
                writer.WriteNumberValue(number);
                break;
            case long number:
                writer.WriteNumberValue(number);
                break;
            case double number:
                writer.WriteNumberValue(number);
                break;
            case var other:
                writer.WriteStringValue(Convert.ToString(other, CultureInfo.InvariantCulture));
                break;
        }
    }

    private static string LevelOf(LogEventLevel level) => level switch
    {
        LogEventLevel.Verbose or LogEventLevel.Debug => "debug",
        LogEventLevel.Information => "info",
        LogEventLevel.Warning => "warning",
        LogEventLevel.Error or LogEventLevel.Fatal => "error",
    };
}

using System.CommandLine;
using System.CommandLine.Parsing;
using System.Text;
using System.Text.Json;
using System.Text.Unicode;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Cli.Commands;

/// <summary>
/// Prints the final answer of a call: whole, one place of it, or as a table. Answers to attempts that were repeated are not printed.
/// </summary>
internal sealed class CallAnswer
{
    private readonly Option<string?> _to = new("--to") { Description = "write the unchanged body to this file" };
    private readonly Option<string?> _pointer = new("--pointer")
    {
        Description = "print only this place of the answer (JSON Pointer); texts without quotes",
    };
    private readonly Option<bool> _table = new("--table") { Description = "print a list of objects as a table" };

    public IEnumerable<Option> Options => [_to, _pointer, _table];

    /// <summary>Tells a command line that cannot be followed.</summary>
    public void Check(CommandResult result)
    {
        if (result.GetValue(_pointer) is { } pointer && JsonPointer.TryParse(pointer) is null)
            result.AddError($"--pointer '{pointer}' is not a JSON Pointer; {JsonPointer.Right}");
        if (result.GetValue(_to) is not null && (result.GetValue(_table) || result.GetValue(_pointer) is not null))
            result.AddError(
                $"--to writes the unchanged body, and {(result.GetValue(_table) ? "--table" : "--pointer")} prints a part of it; use only one of them");
    }

    /// <summary>Whether the body is wanted as it came.</summary>
    public bool IsVerbatim(ParseResult parsed) => parsed.GetValue(_to) is not null;

    /// <summary>Prints an answer.</summary>
    /// <exception cref="RefusedException">It has not what was asked for.</exception>
    public void Show(ParseResult parsed, CommandContext place, Answer answer)
    {
        var error = place.Terminal.Error;
        error.WriteLineAsIs(
            $"status {answer.Status}, {SummaryView.Size(answer.Body.Length)} of {(answer.ContentType.Length > 0 ? answer.ContentType : "unnamed content")} in {Durations.ForPeople(answer.Took)}{(Quote.Of(CorrelationId.Of(answer.Headers), place.Redactor) is { } id ? ", " + id : "")}");
        var isShaped = parsed.GetValue(_table) || parsed.GetValue(_pointer) is not null;
        if (parsed.GetValue(_to) is { } file && answer.IsSuccess)
            File.WriteAllBytes(file, answer.Body.Content.ToArray());
        else if (isShaped && answer.IsSuccess)
            ShowPart(parsed, place, answer);
        else if (!Utf8.IsValid(answer.Body.Content))
            error.WriteLineAsIs("the body is not text; write it to a file with --to FILE");
        else if (answer.Body.Length > 0 && (isShaped || IsVerbatim(parsed)))
            error.WriteLinesAsIs(
                place.Redactor.Clean(
                    Encoding.UTF8.GetString(answer.Body.Content).TrimEnd())); // Whoever reads on from here expects another shape.
        else if (answer.Body.Length > 0)
            Print(place, place.Redactor.Clean(Encoding.UTF8.GetString(answer.Body.Content).TrimEnd()));
    }

    private void ShowPart(ParseResult parsed, CommandContext place, Answer answer)
    {
        using var json = Parse(answer);
        var pointer = JsonPointer.TryParse(parsed.GetValue(_pointer) ?? "")!;
        var found = pointer.Find(json.RootElement)
            ?? throw new RefusedException(new Refusal(Outcome.ApiFailed, $"the answer has nothing at {pointer.Text}")
            {
                NextStep = $"it has {AnswerTable.Members(json.RootElement)}",
            });
        if (!parsed.GetValue(_table))
            Print(place, place.Redactor.Clean(found.ValueKind == JsonValueKind.String ? found.GetString()! : found.GetRawText()));
        else if (AnswerTable.Of(found) is { } table)
            place.Terminal.Out.Write(table);
        else
            throw new RefusedException(
                new Refusal(
                    Outcome.ApiFailed,
                    $"{(pointer.Text.Length == 0 ? "the answer" : pointer.Text)} is not a list of objects, so it cannot be shown as a table")
                { NextStep = $"name the list with --pointer; the answer has {AnswerTable.Members(json.RootElement)}" });
    }

    private static JsonDocument Parse(Answer answer)
    {
        try
        {
            return JsonDocument.Parse(answer.Body.Content.ToArray());
        }
        catch (JsonException error)
        {
            throw new RefusedException(
                new Refusal(
                    Outcome.ApiFailed,
                    "the answer is not JSON, so no part of it can be printed")
                { NextStep = "remove --pointer and --table" },
                error);
        }
    }

    // A program gets the body as it is; a person's terminal must not be steered by it.
    private static void Print(CommandContext place, string body)
    {
        if (place.Terminal.OutIsTerminal)
            place.Terminal.Out.WriteLinesAsIs(body);
        else
            Console.Out.WriteLine(body);
    }
}

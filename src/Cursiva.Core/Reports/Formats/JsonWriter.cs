using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>Rows as JSON lines, one object a line, or as one JSON array of objects.</summary>
internal sealed class JsonWriter(Stream stream, bool asLines) : IReportWriter
{
    /// <summary>What it writes.</summary>
    public static IReadOnlyList<WrittenFormat> Declared { get; } =
    [
        new(target => new JsonWriter(target.Stream, asLines: true)) { Suffix = ".jsonl", Holds = FormatHolds.OneTable, MayBePacked = true },
        new(target => new JsonWriter(target.Stream, asLines: false)) { Suffix = ".json", Holds = FormatHolds.OneTable, MayBePacked = true },
    ];

    private readonly BufferedOutput _output = new(stream);
    private JsonRow? _row;
    private bool _any;

    public void Begin(PartHead head)
    {
        _row = new JsonRow(_output, head.Columns);
        if (!asLines)
            _output.Write((byte)'[');
    }

    public void Row(TextRows rows)
    {
        if (!asLines)
            _output.Write(_any ? ",\n"u8 : "\n"u8);
        _any = true;
        _row!.Write(rows);
        if (asLines)
            _output.Write((byte)'\n');
    }

    public void EndPart()
    {
        if (!asLines)
            _output.Write(_any ? "\n]\n"u8 : "]\n"u8);
    }

    public void End() => _output.Flush();

    public void Dispose()
    {
        // The stream is not ours.
    }
}

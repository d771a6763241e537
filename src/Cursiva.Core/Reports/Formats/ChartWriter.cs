using Cursiva.Core.Jobs;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>A chart as a picture of its own: SVG or PNG.</summary>
internal sealed class ChartWriter(Stream stream, bool asPng, ShownValue shown) : IReportWriter
{
    /// <summary>What it writes.</summary>
    public static IReadOnlyList<WrittenFormat> Declared { get; } =
    [
        new(target => new ChartWriter(target.Stream, asPng: false, new ShownValue(target.Context.Zone)))
        {
            Suffix = ".svg",
            Holds = FormatHolds.OneChart,
            MayBePacked = true,
        },
        new(target => new ChartWriter(target.Stream, asPng: true, new ShownValue(target.Context.Zone)))
        {
            Suffix = ".png",
            Holds = FormatHolds.OneChart,
            MayBePacked = false,
        },
    ];

    private ChartRows? _rows;

    public void Begin(PartHead head) => _rows = new ChartRows(head, shown);

    public void Row(TextRows rows) => _rows!.Add(rows);

    public void EndPart()
    {
        using var drawing = new ChartDrawing(_rows!.Data());
        stream.Write(asPng ? drawing.Png() : drawing.Svg());
    }

    public void End()
    {
        // The picture is the whole file.
    }

    public void Dispose()
    {
        // The stream is not ours.
    }
}

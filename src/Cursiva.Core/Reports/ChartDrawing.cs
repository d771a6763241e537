using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using Cursiva.Core.Jobs;
using ScottPlot;
using ScottPlot.Plottables;

namespace Cursiva.Core.Reports;

/// <summary>Draws a chart.</summary>
internal sealed partial class ChartDrawing : IDisposable
{
    /// <summary>The width of a chart on a desk, in points.</summary>
    public const int Wide = 1000;

    /// <summary>The width of a chart on a phone, in points.</summary>
    public const int Narrow = 480;

    private const int RingAndLegend = 640;

    // Half of what an axis shows of a ring of radius 1.
    private const double RingRoom = 1.04;

    private readonly ChartData _data;
    private readonly Plot _plot = new();
    private readonly int _width;
    private readonly int _height;

    public ChartDrawing(ChartData data, int width = Wide)
    {
        _data = data;

        // A ring and its legend stand together, not at the two ends of a desk.
        _width = data.Kind == PartKind.Share ? Math.Min(width, RingAndLegend) : width;
        ChartFont.Use();
        _plot.Font.Set(ChartFont.Name);
        _plot.FigureBackground.Color = Colors.Transparent;
        _plot.DataBackground.Color = Colors.Transparent;
        _plot.Grid.MajorLineColor = Color.FromHex(ChartColors.Ink).WithAlpha(.14);
        _plot.Axes.Color(Color.FromHex(ChartColors.Ink));
        // Room for the highest label of the axis beside.
        _plot.Axes.Top.FrameLineStyle.Width = 0;
        _plot.Axes.Top.TickGenerator = new ScottPlot.TickGenerators.EmptyTickGenerator();
        _plot.Axes.Top.MinimumSize = data.Kind == PartKind.Share ? 0 : 9;
        // Room for the last label of the axis below.
        _plot.Axes.Right.FrameLineStyle.Width = 0;
        _plot.Axes.Right.TickGenerator = new ScottPlot.TickGenerators.EmptyTickGenerator();
        _plot.Axes.Right.MinimumSize = data.Kind == PartKind.Share ? 0 : 30;
        _height = data.Kind switch
        {
            PartKind.Bar or PartKind.StackedBar => 70 + (Math.Max(1, data.Labels.Count) * 26) + (
                data.Series.Count + data.Thresholds.Count > 1 ? 34 : 0),
            PartKind.Share => IsNarrow ? 440 : 300,
            PartKind.Line or PartKind.Table or PartKind.Figure or PartKind.Text => (IsNarrow ? 300 : 340) + (
                data.Series.Count + data.Thresholds.Count > 1 ? 56 : 0),
        };
        if (data.Labels.Count == 0)
            Empty();
        else if (data.Kind == PartKind.Share)
            Share();
        else if (data.Kind == PartKind.Line)
            Lines();
        else
            Bars();
    }

    /// <summary>The chart as SVG, to stand in a page: its ink is the text colour around it.</summary>
    /// <param name="id">Tells it apart from other charts of the page.</param>
    public string Inline(string id)
    {
        var svg = _plot.GetSvgXml(_width, _height);
        svg = svg[svg.IndexOf("<svg", StringComparison.Ordinal)..];
        svg = svg.Replace(ChartColors.Ink, "currentColor", StringComparison.OrdinalIgnoreCase);
        svg = Renamed(svg, id);
        var size = _data.Kind == PartKind.Share ? $" style=\"max-width:{_width}px\"" : "";
        return SizeOf().Replace(svg, $"<svg viewBox=\"0 0 {_width} {_height}\" role=\"img\"{size}", 1);
    }

    /// <summary>The chart as a file of its own, on white ground.</summary>
    public byte[] Svg()
    {
        _plot.FigureBackground.Color = Colors.White;
        return Encoding.UTF8.GetBytes(Renamed(_plot.GetSvgXml(_width, _height), "c"));
    }

    /// <summary>The chart as a PNG picture with two pixels for each point, on white ground.</summary>
    public byte[] Png()
    {
        _plot.FigureBackground.Color = Colors.White;
        _plot.ScaleFactor = 2;
        return _plot.GetImage(_width * 2, _height * 2).GetImageBytes(ImageFormat.Png);
    }

    private bool IsNarrow => _width < 600;

    public void Dispose() => _plot.Dispose();

    // Bars lie, so that their labels can be read.
    private void Bars()
    {
        var count = _data.Labels.Count;
        var bases = new double[count];
        for (var series = 0; series < _data.Series.Count; series++)
        {
            var one = _data.Series[series];
            var color = _data.Series.Count == 1 ? ChartColors.Single : ChartColors.Series(series, one.Name == ChartData.Rest);
            var stacked = _data.Kind == PartKind.StackedBar;
            var thickness = stacked ? .72 : .8 / _data.Series.Count;
            var bars = new List<Bar>();
            for (var place = 0; place < count; place++)
            {
                if (double.IsNaN(one.Values[place]))
                    continue;
                var position = -place + (stacked ? 0 : ((_data.Series.Count - 1) / 2.0 - series) * thickness);
                bars.Add(new Bar
                {
                    Position = position,
                    ValueBase = stacked ? bases[place] : 0,
                    Value = (stacked ? bases[place] : 0) + one.Values[place],
                    Size = thickness * .94,
                    FillColor = color,
                    LineWidth = 0,
                    ValueLabel = _data.Series.Count == 1 ? ChartWords.Shown(one.Values[place]) : "",
                });
                bases[place] += one.Values[place];
            }

            var plot = _plot.Add.Bars(bars);
            plot.Horizontal = true;
            plot.LegendText = one.Name;
            plot.ValueLabelStyle.FontName = ChartFont.Name;
            plot.ValueLabelStyle.FontSize = 12;
            plot.ValueLabelStyle.ForeColor = Color.FromHex(ChartColors.Ink);
        }

        _plot.Axes.Left.SetTicks([.. Enumerable.Range(0, count).Select(place => (double)-place)], [.. _data.Labels.Select(Shorten)]);
        _plot.Axes.Left.MajorTickStyle.Length = 0;
        _plot.Axes.Margins(left: 0, right: BarRoom.ForValues(_data, _width, Shorten), bottom: .02, top: .02);
        _plot.Grid.YAxisStyle.IsVisible = false;
        foreach (var threshold in _data.Thresholds)
            Mark(_plot.Add.VerticalLine(threshold.Value), threshold);
        Values(_plot.Axes.Bottom);
        Legend();
    }

    private void Lines()
    {
        for (var series = 0; series < _data.Series.Count; series++)
        {
            var one = _data.Series[series];
            var stretches = ChartLine.Stretches(_data.At, one, _data.IsTime);
            var few = stretches.Sum(stretch => stretch.Count) <= 40;
            foreach (var (place, stretch) in stretches.Index())
            {
                var line = _plot.Add.Scatter(
                    stretch.ConvertAll(point => point.At),
                    stretch.ConvertAll(point => point.Value),
                    _data.Series.Count == 1 ? ChartColors.Single : ChartColors.Series(series, one.Name == ChartData.Rest));
                line.LineWidth = 2;
                line.MarkerSize = few ? 6 : stretch.Count == 1 ? 4 : 0;
                line.LegendText = place == 0 ? one.Name : "";
            }
        }

        if (_data.IsTime)
            _plot.Axes.DateTimeTicksBottom().TickGenerator = new ScottPlot.TickGenerators.DateTimeAutomatic
            {
                LabelFormatter = ChartWords.Day,
            };
        else if (_data.Labels.Count <= 24)
            _plot.Axes.Bottom.SetTicks(_data.At, [.. _data.Labels.Select(Shorten)]);
        _plot.Axes.AutoScale();
        _plot.Axes.SetLimitsY(_data.Axis!.Low, _data.Axis.High);
        foreach (var threshold in _data.Thresholds)
            Mark(_plot.Add.HorizontalLine(threshold.Value), threshold);
        Values(_plot.Axes.Left);
        _plot.Axes.Bottom.TickLabelStyle.FontSize = 12;
        _plot.Axes.Bottom.TickLabelStyle.FontName = ChartFont.Name;
        _plot.Axes.Color(Color.FromHex(ChartColors.Ink));
        Legend();
    }

    // Its words stand below, where no bar or line crosses them.
    private static void Mark(AxisLine line, Threshold threshold)
    {
        line.Color = Color.FromHex(ChartColors.Threshold);
        line.LineWidth = 2;
        line.LinePattern = LinePattern.Dashed;
        line.EnableAutoscale = true;
        line.LegendText = $"{threshold.Words} ({ChartWords.Shown(threshold.Value)})";
    }

    private void Share()
    {
        var values = _data.Series[0].Values;
        var whole = values.Sum();
        var pie = _plot.Add.Pie([.. values.Select((value, place) => new PieSlice(value, ChartColors.Series(place, _data.Labels[place] == ChartData.Rest))
        {
            LegendText = $"{Shorten(_data.Labels[place])}  {ChartWords.Shown(value)}{(whole > 0 ? $" ({(value / whole * 100).ToString("0.#", CultureInfo.InvariantCulture)} %)" : "")}",
        })]);
        pie.LineColor = Colors.White;
        pie.LineWidth = 2;
        pie.DonutFraction = .58;
        pie.ExplodeFraction = 0;
        _plot.Axes.Frameless();
        _plot.HideGrid();
        _plot.Axes.SquareUnits();
        _plot.Axes.SetLimits(-RingRoom, RingRoom, -RingRoom, RingRoom);
        var legend = _plot.ShowLegend(IsNarrow ? Edge.Bottom : Edge.Right);
        Style(legend.Legend);
        legend.Legend.FontSize = 14;
    }

    private void Empty()
    {
        _plot.Axes.Frameless();
        _plot.HideGrid();
        var text = _plot.Add.Annotation("No rows", Alignment.MiddleCenter);
        text.LabelFontName = ChartFont.Name;
        text.LabelFontColor = Color.FromHex(ChartColors.Ink);
        text.LabelBackgroundColor = Colors.Transparent;
        text.LabelShadowColor = Colors.Transparent;
        text.LabelBorderWidth = 0;
    }

    private void Values(IAxis axis)
    {
        foreach (var each in new[] { _plot.Axes.Left, (IAxis)_plot.Axes.Bottom })
        {
            each.MinorTickStyle.Length = 0;
            each.TickLabelStyle.FontSize = 12;
            each.TickLabelStyle.FontName = ChartFont.Name;
        }

        if (axis.TickGenerator is ScottPlot.TickGenerators.NumericAutomatic numeric)
        {
            var known = _data.Series.SelectMany(one => one.Values).Where(value => !double.IsNaN(value)).ToList();
            numeric.IntegerTicksOnly = known.TrueForAll(double.IsInteger);
            numeric.LabelFormatter = known.Count > 0 && known.Max() - known.Min() < 10 ? ChartWords.Exact : ChartWords.Shown;
            numeric.TickDensity = IsNarrow ? .5 : .6;
        }

        if (string.Join(" \u2013 ", new[] { _data.Unit ?? "", _data.Axis?.Note ?? "" }.Where(words => words.Length > 0)) is { Length: > 0 } label)
        {
            axis.Label.Text = label;
            axis.Label.FontSize = 12;
            axis.Label.Bold = false;
            axis.Label.FontName = ChartFont.Name;
        }
    }

    private void Legend()
    {
        if (_data.Series.Count + _data.Thresholds.Count < 2)
        {
            _plot.HideLegend();
            return;
        }

        var panel = _plot.ShowLegend(Edge.Bottom);
        panel.Legend.Orientation = Orientation.Horizontal;
        Style(panel.Legend);
    }

    private static void Style(Legend legend)
    {
        legend.FontName = ChartFont.Name;
        legend.FontSize = 12;
        legend.FontColor = Color.FromHex(ChartColors.Ink);
        legend.BackgroundColor = Colors.Transparent;
        legend.OutlineWidth = 0;
        legend.ShadowColor = Colors.Transparent;
    }

    private string Shorten(string label)
    {
        var most = IsNarrow ? 18 : 28;
        return label.Length <= most ? label : label[..(most - 1)] + "…";
    }

    // The drawing library counts on and on; the same chart must have the same names every time.
    private static string Renamed(string svg, string id)
    {
        var names = new Dictionary<string, string>(StringComparer.Ordinal);
        return ClipNames().Replace(svg, match =>
        {
            if (!names.TryGetValue(match.Groups[2].Value, out var name))
                names[match.Groups[2].Value] = name = $"{id}-{names.Count + 1}";
            return match.Groups[1].Value + name;
        });
    }

    [GeneratedRegex("(id=\"|#)(cl_[0-9a-f]+)")]
    private static partial Regex ClipNames();

    [GeneratedRegex("<svg")]
    private static partial Regex SizeOf();
}

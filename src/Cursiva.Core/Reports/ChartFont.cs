using ScottPlot;
using SkiaSharp;

namespace Cursiva.Core.Reports;

/// <summary>
/// The font of charts, which comes with Cursiva: a server may have none, and the same run gives the same picture everywhere.
/// </summary>
internal sealed class ChartFont : IFontResolver
{
    public const string Name = "DejaVu Sans";

    private readonly Lazy<SKTypeface> _typeface = new(Load);

    /// <summary>Makes the font known to the drawing library, once.</summary>
    public static void Use()
    {
        lock (Fonts.FontResolvers)
        {
            if (!Fonts.FontResolvers.Exists(resolver => resolver is ChartFont))
                Fonts.FontResolvers.Insert(0, new ChartFont());
        }
    }

    public SKTypeface? CreateTypeface(string fontName, FontWeight weight, FontSlant slant, FontSpacing spacing) =>
        fontName == Name ? _typeface.Value : null;

    public SKTypeface? CreateTypeface(string fontName, bool bold, bool italic) => fontName == Name ? _typeface.Value : null;

    private static SKTypeface Load()
    {
        using var resource = typeof(ChartFont).Assembly.GetManifestResourceStream("DejaVuSans.ttf")!;
        return SKTypeface.FromStream(resource) ?? throw new InvalidOperationException("the font of charts cannot be read");
    }
}

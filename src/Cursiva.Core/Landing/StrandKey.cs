using System.Globalization;

namespace Cursiva.Core.Landing;

/// <summary>
/// Names a strand by the row that it was made from: strands sort, as texts, in the order of those rows, however they came in.
/// </summary>
public static class StrandKey
{
    /// <summary>The strand of a pull that is not repeated.</summary>
    public const string Only = "";

    private const int StepLength = 14;

    /// <summary>The key of the strand made from a row.</summary>
    /// <param name="parent">The strand that the row is in.</param>
    /// <param name="page">Its page, from 0.</param>
    /// <param name="row">Its row on the page, from 0.</param>
    public static string Of(string parent, int page, int row)
    {
        var step = page.ToString("x8", CultureInfo.InvariantCulture) + row.ToString("x6", CultureInfo.InvariantCulture);
        return parent.Length == 0 ? step : parent + "/" + step;
    }

    /// <summary>How many rows lead to a strand.</summary>
    public static int Depth(string strand) => strand.Length == 0 ? 0 : (strand.Length + 1) / (StepLength + 1);
}

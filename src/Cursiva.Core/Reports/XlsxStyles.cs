using System.Text;
using Cursiva.Core.Tables;

namespace Cursiva.Core.Reports;

/// <summary>The cell styles of a workbook; those of decimals are made as their scales turn up.</summary>
internal sealed class XlsxStyles
{
    public const int Plain = 0;
    public const int Head = 1;
    public const int Date = 2;
    public const int Time = 3;
    public const int Text = 4;
    public const int Whole = 5;
    public const int Title = 6;
    public const int Wrapped = 7;
    public const int NumberHead = 8;
    private const int FirstDecimal = 9;
    private const int FirstFormat = 164;

    private readonly List<int> _scales = [];

    /// <summary>The style of a column's typed values.</summary>
    public int Of(ResultColumn column) => column.Form switch
    {
        ValueForm.Date => Date,
        ValueForm.Time => Time,
        ValueForm.Whole => Whole,
        ValueForm.Decimal => OfScale(column.Scale),
        ValueForm.Text or ValueForm.Float or ValueForm.Boolean or ValueForm.Json => Plain,
    };

    /// <summary>The style sheet, <c>xl/styles.xml</c>.</summary>
    public string Write()
    {
        var formats = new StringBuilder(
            """<numFmt numFmtId="164" formatCode="yyyy\-mm\-dd"/><numFmt numFmtId="165" formatCode="yyyy\-mm\-dd\ hh:mm:ss"/>""");
        var cells = new StringBuilder("""
            <xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0"/>
            <xf numFmtId="0" fontId="1" fillId="2" borderId="1" xfId="0" applyFont="1" applyFill="1" applyBorder="1" applyAlignment="1"><alignment vertical="center"/></xf>
            <xf numFmtId="164" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/>
            <xf numFmtId="165" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/>
            <xf numFmtId="49" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/>
            <xf numFmtId="1" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/>
            <xf numFmtId="0" fontId="2" fillId="0" borderId="0" xfId="0" applyFont="1"/>
            <xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0" applyAlignment="1"><alignment vertical="top" wrapText="1"/></xf>
            <xf numFmtId="0" fontId="1" fillId="2" borderId="1" xfId="0" applyFont="1" applyFill="1" applyBorder="1" applyAlignment="1"><alignment horizontal="right" vertical="center"/></xf>
            """);
        for (var n = 0; n < _scales.Count; n++)
        {
            formats.Append($"<numFmt numFmtId=\"{FirstFormat + 2 + n}\" formatCode=\"0.{new string('0', _scales[n])}\"/>");
            cells.Append(
                $"<xf numFmtId=\"{FirstFormat + 2 + n}\" fontId=\"0\" fillId=\"0\" borderId=\"0\" xfId=\"0\" applyNumberFormat=\"1\"/>");
        }

        return $"""
            <?xml version="1.0" encoding="UTF-8" standalone="yes"?>
            <styleSheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><numFmts count="{2 + _scales.Count}">{formats}</numFmts>
            <fonts count="3"><font><sz val="11"/><name val="Calibri"/></font><font><b/><sz val="11"/><color rgb="FF12343B"/><name val="Calibri"/></font><font><b/><sz val="15"/><color rgb="FF12343B"/><name val="Calibri"/></font></fonts>
            <fills count="3"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill><fill><patternFill patternType="solid"><fgColor rgb="FFE3EEEC"/><bgColor indexed="64"/></patternFill></fill></fills>
            <borders count="2"><border><left/><right/><top/><bottom/><diagonal/></border><border><left/><right/><top/><bottom style="medium"><color rgb="FF2F7F79"/></bottom><diagonal/></border></borders>
            <cellStyleXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0"/></cellStyleXfs>
            <cellXfs count="{FirstDecimal + _scales.Count}">{cells}</cellXfs>
            <cellStyles count="1"><cellStyle name="Normal" xfId="0" builtinId="0"/></cellStyles></styleSheet>
            """;
    }

    private int OfScale(int scale)
    {
        if (!_scales.Contains(scale))
            _scales.Add(scale);
        return FirstDecimal + _scales.IndexOf(scale);
    }
}

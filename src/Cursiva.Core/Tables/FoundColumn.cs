using System.Globalization;
using System.Runtime.CompilerServices;

namespace Cursiva.Core.Tables;

/// <summary>A column of a pull's table, and what its values look like.</summary>
internal sealed class FoundColumn(string name, int place)
{
    /// <summary>Most digits of a decimal of the engine's.</summary>
    public const int LargestDecimal = 38;

    private bool _fitsLong = true;
    private bool _hasNegativeZero;
    private bool _hasPointZero;
    private bool _hasSpareZero;
    private int _mostDigits;
    private int _leastScale = int.MaxValue;
    private int _mostScale = -1;

    public string Name { get; } = name;

    /// <summary>Its place in the table, from 0.</summary>
    public int Place { get; } = place;

    public ValueKinds Kinds { get; private set; }

    /// <summary>Texts with half of a surrogate pair, and the first row that has one, from 1.</summary>
    public (long Count, long Row) OddTexts { get; private set; }

    /// <summary>Texts are kept with their quotes, since the column has values that are none.</summary>
    public bool KeepsQuotes { get; set; }

    /// <summary>Whether texts stand beside other values, so that quotes are needed to tell them apart.</summary>
    public bool IsMixed => (Kinds & ValueKinds.Text) != 0 && Kinds != ValueKinds.Text;

    public void See(ValueKinds kind) => Kinds |= kind;

    public void SeeOddText(long row) => OddTexts = (OddTexts.Count + 1, OddTexts.Count == 0 ? row : Math.Min(row, OddTexts.Row));

    /// <summary>Notes a number, as it is written.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public void SeeNumber(ReadOnlySpan<byte> digits)
    {
        var negative = digits[0] == '-' ? 1 : 0;
        var (point, allZero) = (-1, true);
        for (var i = negative; i < digits.Length; i++)
        {
            var c = digits[i];
            if (c == '.')
                point = i;
            else if (c > '9')
            {
                Kinds |= ValueKinds.Exponent;
                return;
            }

            allZero &= c is (byte)'0' or (byte)'.';
        }

        var whole = (point < 0 ? digits.Length : point) - negative;
        var scale = point < 0 ? 0 : digits.Length - point - 1;
        Kinds |= point < 0 ? ValueKinds.Integer : ValueKinds.Decimal;
        _mostDigits = Math.Max(_mostDigits, whole);
        _leastScale = Math.Min(_leastScale, scale);
        _mostScale = Math.Max(_mostScale, scale);
        _hasNegativeZero |= negative == 1 && allZero;
        if (scale > 0 && digits[^1] == '0')
        {
            _hasPointZero |= scale == 1;
            _hasSpareZero |= scale > 1;
        }

        if (point < 0 && whole > 18 && _fitsLong)
            _fitsLong = long.TryParse(digits, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out _);
    }

    /// <summary>Everything that decides about its type; equal while no value has shown anything new.</summary>
    public int Seen() =>
        HashCode.Combine(
            HashCode.Combine(Kinds, _fitsLong, _hasNegativeZero, _hasPointZero, _hasSpareZero), _mostDigits, _leastScale, _mostScale);

    /// <summary>The same column, with what it was seen with so far.</summary>
    public FoundColumn Copy()
    {
        var copy = new FoundColumn(Name, Place) { KeepsQuotes = KeepsQuotes };
        copy.Learn(this);
        return copy;
    }

    /// <summary>Takes over what another part of the rows showed.</summary>
    public void Learn(FoundColumn other)
    {
        Kinds |= other.Kinds;
        if (other.OddTexts.Count > 0)
            OddTexts = (
                OddTexts.Count + other.OddTexts.Count,
                OddTexts.Count == 0 ? other.OddTexts.Row : Math.Min(OddTexts.Row, other.OddTexts.Row));
        _fitsLong &= other._fitsLong;
        _hasNegativeZero |= other._hasNegativeZero;
        _hasPointZero |= other._hasPointZero;
        _hasSpareZero |= other._hasSpareZero;
        _mostDigits = Math.Max(_mostDigits, other._mostDigits);
        _leastScale = Math.Min(_leastScale, other._leastScale);
        _mostScale = Math.Max(_mostScale, other._mostScale);
    }

    /// <summary>
    /// The SQL type in which every value has the digits it came with: text, boolean, a whole number, a decimal of one scale or of
    /// numbers that are all as short as can be, and otherwise JSON, which keeps them as they were written.
    /// </summary>
    public string SqlType() => Kinds switch
    {
        ValueKinds.None or ValueKinds.Text => "VARCHAR",
        ValueKinds.Boolean => "BOOLEAN",
        ValueKinds.Integer when !_hasNegativeZero && _fitsLong => "BIGINT",
        ValueKinds.Integer when !_hasNegativeZero && _mostDigits <= LargestDecimal => $"DECIMAL({LargestDecimal},0)",
        ValueKinds.Decimal or (ValueKinds.Decimal | ValueKinds.Integer) when DecimalAsWritten() is { } type => type,
        _ => "JSON",
    };

    /// <summary>The decimal type with room for every number and all its places, or null where there is none; zeros may follow.</summary>
    public string? WidestDecimal() =>
        AreDecimals && _mostDigits + _mostScale <= LargestDecimal ? $"DECIMAL({Math.Max(1, _mostDigits + _mostScale)},{_mostScale})" : null;

    private bool AreDecimals => Kinds != ValueKinds.None && (Kinds & ~(ValueKinds.Decimal | ValueKinds.Integer)) == 0 && !_hasNegativeZero;

    private string? DecimalAsWritten()
    {
        if (!AreDecimals)
            return null;
        if (_leastScale == _mostScale)
            return WidestDecimal();
        var hasPoint = (Kinds & ValueKinds.Integer) == 0;
        return !_hasSpareZero && (hasPoint || !_hasPointZero) && _mostDigits + _mostScale <= WrittenDecimal.MostDigits
            ? WrittenDecimal.TypeOf(hasPoint, _mostScale)
            : null;
    }
}

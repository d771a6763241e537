using System.Globalization;
using System.Runtime.CompilerServices;

namespace Cursiva.Core.Tables;

/// <summary>A column of a pull's table, and what its values look like.</summary>
internal sealed class FoundColumn(string name, int place)
{
    private const int LargestDecimal = 38;

    private bool _fitsLong = true;
    private bool _hasNegativeZero;
    private int _mostDigits;
    private int _leastScale = int.MaxValue;
    private int _mostScale = -1;

    public string Name { get; } = name;

    /// <summary>Its place in the table, from 0.</summary>
    public int Place { get; } = place;

    public ValueKinds Kinds { get; private set; }

    /// <summary>Texts are kept with their quotes, since the column has values that are none.</summary>
    public bool KeepsQuotes { get; set; }

    /// <summary>Whether texts stand beside other values, so that quotes are needed to tell them apart.</summary>
    public bool IsMixed => (Kinds & ValueKinds.Text) != 0 && Kinds != ValueKinds.Text;

    public void See(ValueKinds kind) => Kinds |= kind;

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
        if (point < 0 && whole > 18 && _fitsLong)
            _fitsLong = long.TryParse(digits, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out _);
    }

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
        _fitsLong &= other._fitsLong;
        _hasNegativeZero |= other._hasNegativeZero;
        _mostDigits = Math.Max(_mostDigits, other._mostDigits);
        _leastScale = Math.Min(_leastScale, other._leastScale);
        _mostScale = Math.Max(_mostScale, other._mostScale);
    }

    /// <summary>
    /// The SQL type in which every value has the digits it came with: text, boolean, a whole number, a decimal of one scale, and
    /// otherwise JSON, which keeps them as they were written.
    /// </summary>
    public string SqlType() => Kinds switch
    {
        ValueKinds.None or ValueKinds.Text => "VARCHAR",
        ValueKinds.Boolean => "BOOLEAN",
        ValueKinds.Integer when !_hasNegativeZero && _fitsLong => "BIGINT",
        ValueKinds.Integer when !_hasNegativeZero && _mostDigits <= LargestDecimal => $"DECIMAL({LargestDecimal},0)",
        ValueKinds.Decimal when !_hasNegativeZero && DecimalType() is { } type => type,
        _ => "JSON",
    };

    /// <summary>The decimal type that keeps every number as it is, or null when their scales differ or they are too long.</summary>
    public string? DecimalType() =>
        (Kinds & ~(ValueKinds.Decimal | ValueKinds.Integer)) == 0 && _leastScale == _mostScale && !_hasNegativeZero && _mostDigits + _mostScale <= LargestDecimal
            ? $"DECIMAL({Math.Max(1, _mostDigits + _mostScale)},{_mostScale})"
            : null;
}

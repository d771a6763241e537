using System.Globalization;
using System.Text.Json;
using System.Text.RegularExpressions;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Drafts;

/// <summary>What the values at one place of rows look like.</summary>
internal sealed partial class SeenColumn(JsonPointer at)
{
    private const int MostDifferent = 1_000_000;
    private const int MostDigits = 18;
    private const int MostFraction = 6;
    private const int ExampleLength = 40;

    private readonly HashSet<string> _different = new(StringComparer.Ordinal);
    private readonly HashSet<int> _places = [];
    private int _values;
    private int _texts;
    private int _numbers;
    private int _booleans;
    private int _others;
    private int _dates;
    private int _moments;
    private int _local;
    private int _decimalTexts;
    private bool _isLong;
    private bool _hasExponent;
    private string? _example;

    /// <summary>Where it stands.</summary>
    public JsonPointer At { get; } = at;

    /// <summary>Whether nothing but null was seen.</summary>
    public bool IsNullAlone => _values == 0;

    public void See(JsonElement value)
    {
        if (value.ValueKind == JsonValueKind.Null)
            return;
        _values++;
        var raw = value.ValueKind == JsonValueKind.String ? TextOf(value) : value.GetRawText();
        _example ??= raw;
        if (_different.Count < MostDifferent)
            _different.Add(raw);
        switch (value.ValueKind)
        {
            case JsonValueKind.String:
                SeeText(raw);
                break;
            case JsonValueKind.Number:
                SeeNumber(raw);
                break;
            case JsonValueKind.True or JsonValueKind.False:
                _booleans++;
                break;
            default:
                _others++;
                break;
        }
    }

    /// <summary>The column, under a name.</summary>
    /// <param name="rows">How many rows there were.</param>
    public DraftedColumn Draft(string name, int rows)
    {
        var (type, why) = Type();
        var missing = rows - _values;
        string?[] words =
        [
            why,
            missing == 0 ? null : _values == 0 ? "no row had a value" : $"null or missing in {missing:N0} of {rows:N0}",
            _different.Count is > 0 and <= 12 && rows > 12 ? $"{_different.Count} different" : null,
            Quoted(),
        ];
        return new DraftedColumn(name, At, type, string.Join("; ", words.OfType<string>()))
        {
            Different = _different.Count < MostDifferent ? _different.Count : null,
            IsUnique = missing == 0 && _different.Count == rows && _others + _booleans == 0 && rows > 1,
            Example = _example,
            LosesPlaces = type == ColumnType.Decimal && _places.Count > 1,
        };
    }

    private (ColumnType Type, string? Why) Type()
    {
        if (_values == 0)
            return (ColumnType.Text, null);
        if (_booleans == _values)
            return (ColumnType.Boolean, null);
        if (_numbers == _values)
        {
            return _hasExponent ? (ColumnType.Text, "numbers with exponents; a text keeps their digits")
                : _places.Max() == 0 ? _isLong ? (ColumnType.Text, "whole numbers of more than 18 digits") : (ColumnType.Integer, null)
                : (ColumnType.Decimal, _places.Count > 1 ? "numbers with varying places" : null);
        }

        if (_texts != _values)
            return (ColumnType.Json, _others == _values ? null : "values of different kinds");
        if (_moments == _values)
            return (ColumnType.Time, "times with an offset; reported in UTC");
        if (_dates == _values)
            return (ColumnType.Date, null);
        if (_local == _values)
            return (ColumnType.Text, "times without an offset; zone: and type time make them usable as times");
        return _decimalTexts == _values && _places.Count == 1 ? (ColumnType.Decimal, "texts that are digits") : (ColumnType.Text, null);
    }

    private string? Quoted() =>
        _example is null || Http.ShownAddress.IsMasked(At.Segments[^1]) || Http.ShownAddress.InText(_example) != _example
            ? null
            : $"such as {(_example.Length > ExampleLength ? _example[..ExampleLength] + "…" : _example)}";

    private void SeeText(string text)
    {
        _texts++;
        if (text.Length > 40)
            return;
        if (Day().IsMatch(text))
            _dates++;
        else if (Moment().Match(text) is { Success: true } moment
            && moment.Groups["fraction"].Length <= MostFraction
            && DateTimeOffset.TryParse(text, CultureInfo.InvariantCulture, DateTimeStyles.None, out _))
            (_moments, _local) = moment.Groups["offset"].Length > 0 ? (_moments + 1, _local) : (_moments, _local + 1);
        else if (Digits().Match(text) is { Success: true } digits)
            (_decimalTexts, _) = (_decimalTexts + 1, _places.Add(digits.Groups["places"].Length));
    }

    private void SeeNumber(string raw)
    {
        _numbers++;
        _hasExponent |= raw.AsSpan().ContainsAny('e', 'E') || raw.StartsWith("-0", StringComparison.Ordinal)
            && raw.TrimStart('-', '0', '.').Length == 0;
        var point = raw.IndexOf('.', StringComparison.Ordinal);
        _places.Add(point < 0 ? 0 : raw.Length - point - 1);
        _isLong |= point < 0 && raw.TrimStart('-').Length > MostDigits;
    }

    // Half of a surrogate pair is not text.
    private static string TextOf(JsonElement value)
    {
        try
        {
            return value.GetString()!;
        }
        catch (InvalidOperationException)
        {
            return value.GetRawText();
        }
    }

    [GeneratedRegex(@"^\d{4}-\d\d-\d\d$")]
    private static partial Regex Day();

    [GeneratedRegex(@"^\d{4}-\d\d-\d\d[T ]\d\d:\d\d(?::\d\d(?:\.(?<fraction>\d+))?)?(?<offset>Z|[+-]\d\d:?\d\d)?$")]
    private static partial Regex Moment();

    [GeneratedRegex(@"^-?(?:0|[1-9]\d*)\.(?<places>\d+)$")]
    private static partial Regex Digits();
}

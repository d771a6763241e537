using System.Buffers;
using System.Globalization;
using System.Text;

namespace Cursiva.Core.Secrets;

/// <summary>
/// A text, and what it reads like decoded: percent (RFC 3986), JSON strings (RFC 8259), character references of HTML and XML, and
/// unwrapped. Every character knows the stretch of the original that it came from.
/// </summary>
internal sealed class EncodedText
{
    private readonly string _text;
    private readonly int[] _starts;
    private readonly int[] _ends;

    private EncodedText(string text, int[] starts, int[] ends)
    {
        _text = text;
        _starts = starts;
        _ends = ends;
    }

    public string Text => _text;

    /// <summary>The stretch of the original behind a stretch of this reading.</summary>
    public (int Start, int End) Original(int start, int end) => (_starts[start], _ends[end - 1]);

    /// <summary>All readings of a text: as it is, and decoded up to some times over.</summary>
    public static IEnumerable<EncodedText> ReadingsOf(string text)
    {
        var first = new EncodedText(text, [.. Enumerable.Range(0, text.Length)], [.. Enumerable.Range(1, text.Length)]);
        var depth = text.Length < 16_384 ? 3 : 2;
        var seen = new HashSet<string>(StringComparer.Ordinal) { text };
        List<EncodedText> readings = [first];
        for (var (from, round) = (0, 0); round < depth; round++)
        {
            var to = readings.Count;
            for (; from < to; from++)
            {
                foreach (var decoded in readings[from].Decoded())
                {
                    if (seen.Add(decoded._text))
                        readings.Add(decoded);
                }
            }
        }

        return readings;
    }

    /// <summary>
    /// Where a text stands whose characters are encoded one by one, each in its own way. Readings decode all of a text alike, and so
    /// read on in a secret that has the signs of an encoding in itself.
    /// </summary>
    public IEnumerable<(int Start, int End)> PlacesOf(string plain)
    {
        for (var start = 0; start < _text.Length; start++)
        {
            if ((_text[start] == plain[0] || _text[start] is '%' or '\\' or '&') && EndOf(plain, start) is { } end)
                yield return (start, end);
        }
    }

    private int? EndOf(string plain, int start)
    {
        // The places at which the text behind the first so many characters can begin.
        var places = new HashSet<int>?[plain.Length + 1];
        places[0] = [start];
        for (var read = 0; read < plain.Length; read++)
        {
            foreach (var place in places[read] is { } from ? from.Where(at => at < _text.Length) : [])
            {
                foreach (var (decoded, length) in new[] { (_text[place].ToString(), 1), Percent(place), Json(place), Reference(place) })
                {
                    if (length > 0 && plain.AsSpan(read).StartsWith(decoded))
                        (places[read + decoded.Length] ??= []).Add(place + length);
                }
            }
        }

        return places[^1]?.Max();
    }

    private IEnumerable<EncodedText> Decoded()
    {
        if (_text.Contains('%', StringComparison.Ordinal))
            yield return Decode(Percent);
        if (_text.Contains('\\', StringComparison.Ordinal))
            yield return Decode(Json);
        if (_text.Contains('&', StringComparison.Ordinal))
            yield return Decode(Reference);
        if (_text.AsSpan().ContainsAny('\r', '\n'))
            yield return Decode(Wrap);
    }

    // A decoder gives what stands at a place and how many characters it takes up; 0 for a character that stands for itself.
    private EncodedText Decode(Func<int, (string Text, int Length)> at)
    {
        var text = new StringBuilder(_text.Length);
        var (starts, ends) = (new List<int>(_text.Length), new List<int>(_text.Length));
        for (var i = 0; i < _text.Length;)
        {
            var (decoded, length) = at(i);
            if (length == 0)
                (decoded, length) = (_text[i].ToString(), 1);
            foreach (var c in decoded)
            {
                text.Append(c);
                starts.Add(_starts[i]);
                ends.Add(_ends[i + length - 1]);
            }

            i += length;
        }

        return new EncodedText(text.ToString(), [.. starts], [.. ends]);
    }

    private (string, int) Percent(int i)
    {
        Span<byte> bytes = stackalloc byte[4];
        var count = 0;
        while (count < 4 && Hex(i + (count * 3) + 1, 2) is { } value && _text[i + (count * 3)] == '%')
        {
            bytes[count++] = (byte)value;
            if (Rune.DecodeFromUtf8(bytes[..count], out var rune, out _) == OperationStatus.Done)
                return (rune.ToString(), count * 3);
        }

        return ("", 0);
    }

    private (string, int) Json(int i)
    {
        if (_text[i] != '\\' || i + 1 >= _text.Length)
            return ("", 0);
        return _text[i + 1] switch
        {
            'u' => Hex(i + 2, 4) is { } unit ? (((char)unit).ToString(), 6) : ("", 0),
            'n' => ("\n", 2),
            'r' => ("\r", 2),
            't' => ("\t", 2),
            'b' => ("\b", 2),
            'f' => ("\f", 2),
            '"' or '\\' or '/' or '\'' => (_text[i + 1].ToString(), 2),
            _ => ("", 0),
        };
    }

    private (string, int) Reference(int i)
    {
        var end = _text[i] == '&' ? _text.IndexOf(';', i) : -1;
        if (end < i + 2 || end > i + 10)
            return ("", 0);
        var name = _text[(i + 1)..end];
        string? value = name switch
        {
            "amp" => "&",
            "lt" => "<",
            "gt" => ">",
            "quot" => "\"",
            "apos" => "'",
            _ => null,
        };
        if (value is null && name[0] == '#')
        {
            var isHex = name.Length > 2 && name[1] is 'x' or 'X';
            if (int.TryParse(
                name.AsSpan(isHex ? 2 : 1),
                isHex ? NumberStyles.AllowHexSpecifier : NumberStyles.None,
                CultureInfo.InvariantCulture,
                out var code) && Rune.IsValid(code))
                value = new Rune(code).ToString();
        }

        return value is null ? ("", 0) : (value, end + 1 - i);
    }

    private (string, int) Wrap(int i)
    {
        if (_text[i] is not ('\r' or '\n'))
            return ("", 0);
        var end = i;
        while (end < _text.Length && char.IsWhiteSpace(_text[end]))
            end++;
        return ("", end - i);
    }

    private int? Hex(int at, int digits) =>
        at + digits <= _text.Length && int.TryParse(
            _text.AsSpan(at, digits), NumberStyles.AllowHexSpecifier, CultureInfo.InvariantCulture, out var value)
            ? value
            : null;
}

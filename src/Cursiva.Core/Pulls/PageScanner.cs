using System.Globalization;
using System.Runtime.CompilerServices;
using System.Text;
using System.Text.Json;
using System.Text.Unicode;
using Cursiva.Core.Http;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Checks a page against the whole grammar of JSON (RFC 8259) and finds its rows and what leads to the next page, without
/// building a tree and without an allocation per row. One scanner serves one strand.
/// </summary>
public sealed class PageScanner : IDisposable
{
    private const int DeepestRow = 64;

    private readonly TokenIndex _index = new();
    private readonly byte[][][] _watched;
    private readonly int[] _found = new int[3];
    private PageBuffer _page = null!;
    private int _start;
    private int _end;
    private int _rows;

    private const int Rows = 0;
    private const int Next = 1;
    private const int Total = 2;

    public PageScanner(PageShape shape)
    {
        _watched = [Names(shape.Rows), shape.Next is null ? [] : Names(shape.Next), shape.Total is null ? [] : Names(shape.Total)];
        Shape = shape;
    }

    public PageShape Shape { get; }

    /// <summary>Scans a page and rewrites its rows, in place, as JSON lines.</summary>
    /// <exception cref="PageException">The page is no JSON, or has no rows where they should be.</exception>
    public PageScan Scan(PageBuffer page)
    {
        _page = page;
        _rows = _start = _end = 0;
        _found.AsSpan().Fill(-1);
        if (!Utf8.IsValid(page.Content))
            throw new PageException($"not UTF-8, at byte {FirstInvalid(page.Content) + 1}");
        SkipByteOrderMark(page);
        _index.Build(page);
        if (_index.HasBackslash)
            EscapeCheck.Check(page.Content);
        if (_index.Count == 0)
            throw new PageException("not JSON: the page is empty");

        var active = 1u | (Shape.Next is null ? 0u : 2u) | (Shape.Total is null ? 0u : 4u);
        var after = Walk(0, 0, active);
        if (after != _index.Count)
            throw Wrong(after, "the end of the page");
        if (_found[Rows] < 0)
            throw new PageException($"nothing stands at rows: {Shape.Rows.Text}{TopLevel()}");

        // Read before the rows are rewritten: nothing may lie in between, but the last line break does.
        var (next, total) = (TextAt(_found[Next]), NumberAt(_found[Total]));
        if (_rows == 0)
            return new PageScan(0, 0, 0, next, total);

        page.Content[_end] = (byte)'\n';
        var length = _index.FirstSpace < _end ? RowCompaction.Compact(page.Content[_start..(_end + 1)]) : _end + 1 - _start;
        return new PageScan(_start, length, _rows, next, total);
    }

    public void Dispose() => _index.Dispose();

    // Follows the pointers through the few levels above the rows; everything aside is skipped, but checked.
    private int Walk(int token, int depth, uint active)
    {
        for (var watched = Rows; watched <= Total; watched++)
        {
            if ((active & (1u << watched)) == 0 || _watched[watched].Length != depth)
                continue;
            if (_found[watched] >= 0)
                throw new PageException($"the page has {Name(watched)} twice, the second time at byte {_index.Places[token] + 1}");
            _found[watched] = token;
            if (watched == Rows)
                return WalkRows(token);
            active &= ~(1u << watched);
        }

        var opening = At(token);
        if (active == 0 || opening is not ((byte)'{' or (byte)'['))
            return JsonSkip.Value(_page.Padded, _index.Places, token, DeepestRow);
        return opening == '{' ? WalkObject(token, depth, active) : WalkArray(token, depth, active);
    }

    private int WalkObject(int token, int depth, uint active)
    {
        token++;
        if (At(token) == '}')
            return token + 1;
        while (true)
        {
            if (At(token) != '"')
                throw Wrong(token, "a name");
            var inside = Matching(StringAt(token), depth, active);
            token++;
            if (At(token) != ':')
                throw Wrong(token, "a colon");
            token = Walk(token + 1, depth + 1, inside);
            var end = At(token);
            if (end is not ((byte)',' or (byte)'}'))
                throw Wrong(token, "a comma or the end of the object");
            token++;
            if (end == '}')
                return token;
        }
    }

    private int WalkArray(int token, int depth, uint active)
    {
        token++;
        if (At(token) == ']')
            return token + 1;
        for (var place = 0; ; place++)
        {
            token = Walk(token, depth + 1, Matching(Encoding.ASCII.GetBytes(place.ToString(CultureInfo.InvariantCulture)), depth, active));
            var end = At(token);
            if (end is not ((byte)',' or (byte)']'))
                throw Wrong(token, "a comma or the end of the array");
            token++;
            if (end == ']')
                return token;
        }
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private int WalkRows(int token)
    {
        var bytes = _page.Padded;
        var places = _index.Places;
        if (bytes[places[token]] == 'n')
            return JsonSkip.Value(bytes, places, token, DeepestRow);
        if (bytes[places[token]] != '[')
            throw new PageException($"rows: {Shape.Rows.Text} is no array, at byte {places[token] + 1}");

        token++;
        if (bytes[places[token]] == ']')
            return token + 1;
        _start = places[token];
        while (true)
        {
            if (bytes[places[token]] != '{')
                throw places[token] < _page.Length ? new PageException($"row {_rows + 1} is no object, at byte {places[token] + 1}") : Wrong(token, "a row");
            token = JsonSkip.Value(bytes, places, token, DeepestRow);
            _rows++;
            var end = bytes[places[token]];
            if (end == ',')
            {
                bytes[places[token]] = (byte)'\n';
                token++;
            }
            else if (end == ']')
            {
                _end = places[token - 1] + 1;
                return token + 1;
            }
            else
            {
                throw Wrong(token, "a comma or the end of the rows");
            }
        }
    }

    private uint Matching(ReadOnlySpan<byte> name, int depth, uint active)
    {
        var escaped = name.Contains((byte)'\\') ? Encoding.UTF8.GetBytes(Unescape(name)) : null;
        var inside = 0u;
        for (var watched = Rows; watched <= Total; watched++)
        {
            if ((active & (1u << watched)) != 0 && _watched[watched].Length > depth && (escaped ?? name).SequenceEqual(_watched[watched][depth]))
                inside |= 1u << watched;
        }

        return inside;
    }

    private byte At(int token) => _page.Padded[_index.Places[token]];

    private PageException Wrong(int token, string expected) =>
        new(_index.Places[Math.Min(token, _index.Count)] >= _page.Length
            ? $"not JSON: the page is cut off after {_page.Length} bytes, where {expected} should follow"
            : $"not JSON: {expected} should stand at byte {_index.Places[token] + 1}");

    private string? TextAt(int token)
    {
        if (token < 0)
            return null;
        if (At(token) != '"')
            return Scalar(token) is var word && word is "null" or "false" ? null : word;
        var text = Unescape(StringAt(token));
        return text.Length == 0 ? null : text;
    }

    private long? NumberAt(int token) =>
        token >= 0 && long.TryParse(At(token) == '"' ? TextAt(token) : Scalar(token), NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;

    private string Scalar(int token)
    {
        if (At(token) is (byte)'{' or (byte)'[')
            throw new PageException($"{Shape.Next?.Text} is neither text nor number, at byte {_index.Places[token] + 1}");
        return Encoding.UTF8.GetString(_page.Content[_index.Places[token].._index.Places[token + 1]]).TrimEnd();
    }

    // What stands between the quotes of the string at a token.
    private ReadOnlySpan<byte> StringAt(int token)
    {
        var start = _index.Places[token] + 1;
        var end = start;
        while (_page.Content[end] != '"')
            end += _page.Content[end] == '\\' ? 2 : 1;
        return _page.Content[start..end];
    }

    private static string Unescape(ReadOnlySpan<byte> inside)
    {
        var quoted = new byte[inside.Length + 2];
        quoted[0] = quoted[^1] = (byte)'"';
        inside.CopyTo(quoted.AsSpan(1));
        var reader = new Utf8JsonReader(quoted);
        reader.Read();
        return reader.GetString()!;
    }

    private static string Name(int watched) => watched switch { Rows => "rows", Next => "the link or cursor of the next page", _ => "the total" };

    // Only for a message: what the page has instead.
    private string TopLevel()
    {
        if (At(0) != '{')
            return At(0) == '[' ? "; the page is an array: rows may have to be empty" : "; the page is a single value";
        var reader = new Utf8JsonReader(_page.Content);
        var names = new List<string>();
        while (reader.Read() && names.Count < 12)
        {
            if (reader.TokenType == JsonTokenType.PropertyName && reader.CurrentDepth == 1)
                names.Add("/" + reader.GetString());
        }

        return names.Count == 0 ? "; the page is an empty object" : $"; the page has {string.Join(", ", names)}";
    }

    private static byte[][] Names(Jobs.JsonPointer pointer) => [.. pointer.Segments.Select(Encoding.UTF8.GetBytes)];

    private static void SkipByteOrderMark(PageBuffer page)
    {
        if (page.Content is [0xEF, 0xBB, 0xBF, ..])
            page.Content[..3].Fill((byte)' ');
    }

    private static int FirstInvalid(ReadOnlySpan<byte> bytes)
    {
        var place = 0;
        while (place < bytes.Length && Rune.DecodeFromUtf8(bytes[place..], out _, out var length) == System.Buffers.OperationStatus.Done)
            place += length;
        return place;
    }
}

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
    private readonly RowExtractor? _extractor;
    private readonly byte[][][] _watched;
    private readonly int[] _found;
    private PageBuffer _page = null!;
    private int _start;
    private int _end;
    private int _length;
    private int _rows;
    private bool _light;
    private const int Rows = 0;

    /// <summary>A scanner of pages of one shape.</summary>
    public PageScanner(PageShape shape)
    {
        Shape = shape;
        _watched = [.. shape.Watched.Select(pointer => pointer is null ? [] : Names(pointer))];
        _found = new int[_watched.Length];
        if (shape.Rows.Form != Jobs.RowsForm.Array || shape.Drop.Count > 0)
            _extractor = new RowExtractor(shape.Rows, shape.Drop);
    }

    /// <summary>What it looks for.</summary>
    public PageShape Shape { get; }

    /// <summary>The rows of the page that was finished last, as JSON lines; good until the next page begins.</summary>
    public ReadOnlySpan<byte> Lines => _extractor is not null ? _extractor.Lines : _page.Content.Slice(_start, _length);

    /// <summary>Scans a page and rewrites its rows as JSON lines: <see cref="Begin"/> and <see cref="Finish"/> in one.</summary>
    /// <exception cref="PageException">The page is not JSON, or has no rows where they should be.</exception>
    public PageScan Scan(PageBuffer page)
    {
        Begin(page);
        return Finish();
    }

    /// <summary>Begins a page.</summary>
    /// <exception cref="PageException">Seen from afar already, the page is not JSON.</exception>
    public void Begin(PageBuffer page)
    {
        _page = page;
        PageWords.SkipByteOrderMark(page);
        _index.Build(page);
        if (_index.Count == 0)
            throw new PageException("not JSON: the page is empty");
    }

    /// <summary>Looks for what leads on, without a check of the grammar: the request for the next page can leave before this one is finished.</summary>
    /// <returns>What was found, its number of rows not yet known; null when the page is odd and has to be finished first.</returns>
    public PageScan? Glance()
    {
        try
        {
            _light = true;
            Walk();
            return Result(-1);
        }
        catch (Exception error) when (error is PageException or JsonException or InvalidOperationException or ArgumentException)
        {
            return null;
        }
        finally
        {
            _light = false;
        }
    }

    /// <summary>Checks the page that was begun, whole, and rewrites its rows.</summary>
    /// <exception cref="PageException">The page is not JSON, or has no rows where they should be.</exception>
    public PageScan Finish()
    {
        var page = _page;
        _rows = _start = _end = _length = 0;
        if (!Utf8.IsValid(page.Content))
            throw new PageException($"not UTF-8, at byte {PageWords.FirstInvalid(page.Content) + 1}");
        if (_index.HasBackslash)
            EscapeCheck.Check(page.Content);
        var after = Walk();
        if (after != _index.Count)
            throw Wrong(after, "the end of the page");
        if (_found[Rows] < 0)
            throw new PageException($"there is nothing at rows: {Shape.Rows.At.Text}{PageWords.TopLevel(page)}");
        if (_extractor is not null)
        {
            var rows = _extractor.Extract(page.Content[_start.._end], _start, _index.FirstSpace < _end);
            return Result(rows) with { Seen = _extractor.Seen };
        }

        // Read before the rows are rewritten: nothing may lie in between, but the last line break does.
        var result = Result(_rows);
        if (_rows == 0)
            return result;

        page.Content[_end] = (byte)'\n';
        _length = _index.FirstSpace < _end ? RowCompaction.Compact(page.Content[_start..(_end + 1)]) : _end + 1 - _start;
        return result;
    }

    /// <summary>Gives the page its commas back, where it could not be finished.</summary>
    public void Restore()
    {
        // Only a comma that was replaced is a line break where something begins or ends.
        foreach (var place in _index.Places[..^1])
        {
            if (_page.Content[place] == '\n')
                _page.Content[place] = (byte)',';
        }
    }

    /// <inheritdoc/>
    public void Dispose() => _index.Dispose();

    private PageScan Result(int rows) => new(
        rows,
        Next(),
        PageTokens.Number(_page, _index, _found[PageShape.TotalAt]),
        PageTokens.Number(_page, _index, _found[PageShape.PagesAt]),
        _found[PageShape.MoreAt] is >= 0 and var more ? PageTokens.Flag(_page, _index, more, Shape.Paging) : null,
        PageTokens.Text(_page, _index, _found[PageShape.DeltaAt]))
    {
        HasNext = _found[PageShape.NextAt] >= 0,
        RowsAreNull = _found[Rows] >= 0 && At(_found[Rows]) == 'n',
    };

    private string? Next() => Shape.Pager?.NextIn(_page, _index, [_found[PageShape.NextAt], .. _found.AsSpan(PageShape.FurtherAt)]);

    private int Walk()
    {
        _found.AsSpan().Fill(-1);
        var active = 1u;
        for (var watched = 1; watched < _watched.Length; watched++)
        {
            if (Shape.Watched[watched] is not null)
                active |= 1u << watched;
        }

        return Walk(0, 0, active);
    }

    private int Skip(int token) => _light ? JsonSkip.Lightly(_page.Padded, _index.Places, token) : JsonSkip.Value(_page.Padded, _index.Places, token, DeepestRow);

    // Follows the pointers through the few levels above the rows; everything aside is skipped, but checked.
    private int Walk(int token, int depth, uint active)
    {
        for (var watched = 0; watched < _watched.Length; watched++)
        {
            if ((active & (1u << watched)) == 0 || _watched[watched].Length != depth)
                continue;
            if (_found[watched] >= 0)
                throw new PageException($"the page has {PageShape.NameOf(watched)} twice, the second time at byte {_index.Places[token] + 1}");
            _found[watched] = token;
            active &= ~(1u << watched);
            if (watched == Rows && active == 0)
                return WalkRows(token);
        }

        var opening = At(token);
        if (_found[Rows] == token && (opening != '{' || _extractor is null))
            return WalkRows(token);
        if (active == 0 || opening is not ((byte)'{' or (byte)'['))
            return Skip(token);
        var after = opening == '{' ? WalkObject(token, depth, active) : WalkArray(token, depth, active);
        if (_found[Rows] == token)
            (_start, _end) = (_index.Places[token], _index.Places[after - 1] + 1);
        return after;
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
            var inside = Matching(PageTokens.Inside(_page, _index, token), depth, active);
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
        if (_light)
            return Skip(token);
        if (_extractor is not null)
        {
            var after = Skip(token);
            (_start, _end) = (places[token], After(bytes, places, token, after));
            return after;
        }

        if (bytes[places[token]] == 'n')
            return JsonSkip.Value(bytes, places, token, DeepestRow);
        if (bytes[places[token]] != '[')
            throw new PageException($"rows: {Shape.Rows.At.Text} is not an array, at byte {places[token] + 1}");

        token++;
        if (bytes[places[token]] == ']')
            return token + 1;
        _start = places[token];
        while (true)
        {
            if (bytes[places[token]] != '{')
                throw places[token] < _page.Length ? new PageException($"row {_rows + 1} is not an object, at byte {places[token] + 1}; rows: {{ at: {Shape.Rows.At.Text}, value-as: NAME }} makes rows of plain values") : Wrong(token, "a row");
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
        var escaped = name.Contains((byte)'\\') ? Encoding.UTF8.GetBytes(PageWords.Unescape(name)) : null;
        var inside = 0u;
        for (var watched = 0; watched < _watched.Length; watched++)
        {
            if ((active & (1u << watched)) != 0 && _watched[watched].Length > depth && (escaped ?? name).SequenceEqual(_watched[watched][depth]))
                inside |= 1u << watched;
        }

        return inside;
    }

    private byte At(int token) => _page.Padded[_index.Places[token]];

    private PageException Wrong(int token, string expected) => PageTokens.Wrong(_page, _index, token, expected);

    // The byte behind a value of the rows: behind its closing bracket, or behind the last letter of null and the like.
    private static int After(ReadOnlySpan<byte> bytes, ReadOnlySpan<int> places, int token, int after) =>
        bytes[places[token]] is (byte)'{' or (byte)'[' ? places[after - 1] + 1 : places[token] + 4;

    private static byte[][] Names(Jobs.JsonPointer pointer) => [.. pointer.Segments.Select(Encoding.UTF8.GetBytes)];

}

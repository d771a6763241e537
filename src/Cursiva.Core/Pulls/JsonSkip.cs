using System.Runtime.CompilerServices;

namespace Cursiva.Core.Pulls;

/// <summary>Steps over one JSON value by its tokens, checking the grammar (RFC 8259).</summary>
internal static class JsonSkip
{
    /// <summary>Steps over the value that begins at a token.</summary>
    /// <param name="bytes">The page and the zero bytes behind it.</param>
    /// <param name="places">The page's <see cref="TokenIndex"/>.</param>
    /// <param name="deepest">Most levels of nesting, up to 64.</param>
    /// <returns>The token behind the value.</returns>
    /// <exception cref="PageException">The grammar is broken, or the value is nested too deeply.</exception>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public static int Value(ReadOnlySpan<byte> bytes, ReadOnlySpan<int> places, int token, int deepest)
    {
        var depth = 0;
        var objects = 0UL; // bit n tells whether level n is an object

    value:
        var place = places[token];
        switch (bytes[place])
        {
            case (byte)'"':
                token += 2;
                goto after;
            case (byte)'{':
                if (depth == deepest)
                    throw TooDeep(place, deepest);
                objects |= 1UL << depth++;
                token++;
                if (bytes[places[token]] == '}')
                    goto close;
                goto name;
            case (byte)'[':
                if (depth == deepest)
                    throw TooDeep(place, deepest);
                objects &= ~(1UL << depth++);
                token++;
                if (bytes[places[token]] == ']')
                    goto close;
                goto value;
            case (byte)'-' or (>= (byte)'0' and <= (byte)'9'):
                Number(bytes, place);
                token++;
                goto after;
            case (byte)'t':
                Literal(bytes, place, "true"u8);
                token++;
                goto after;
            case (byte)'f':
                Literal(bytes, place, "false"u8);
                token++;
                goto after;
            case (byte)'n':
                Literal(bytes, place, "null"u8);
                token++;
                goto after;
            default:
                throw Wrong(bytes, places, token, "a value");
        }

    name:
        if (bytes[places[token]] != '"')
            throw Wrong(bytes, places, token, "a name");
        token += 2;
        if (bytes[places[token]] != ':')
            throw Wrong(bytes, places, token, "a colon");
        token++;
        goto value;

    after:
        if (depth == 0)
            return token;
        var inObject = (objects & (1UL << (depth - 1))) != 0;
        switch (bytes[places[token]])
        {
            case (byte)',':
                token++;
                if (inObject)
                    goto name;
                goto value;
            case (byte)'}' when inObject:
            case (byte)']' when !inObject:
                goto close;
            default:
                throw Wrong(bytes, places, token, inObject ? "a comma or the end of the object" : "a comma or the end of the array");
        }

    close:
        depth--;
        token++;
        goto after;
    }

    private static void Number(ReadOnlySpan<byte> bytes, int start)
    {
        var place = start;
        if (bytes[place] == '-')
            place++;
        if (bytes[place] == '0')
            place++;
        else if (Digits(bytes, ref place) == 0)
            throw NotANumber(start);

        if (bytes[place] == '.')
        {
            place++;
            if (Digits(bytes, ref place) == 0)
                throw NotANumber(start);
        }

        if (bytes[place] is (byte)'e' or (byte)'E')
        {
            place++;
            if (bytes[place] is (byte)'+' or (byte)'-')
                place++;
            if (Digits(bytes, ref place) == 0)
                throw NotANumber(start);
        }

        if (!Ends(bytes[place]))
            throw NotANumber(start);
    }

    private static int Digits(ReadOnlySpan<byte> bytes, ref int place)
    {
        var start = place;
        while ((uint)(bytes[place] - '0') <= 9)
            place++;
        return place - start;
    }

    private static void Literal(ReadOnlySpan<byte> bytes, int place, ReadOnlySpan<byte> word)
    {
        if (!bytes[place..].StartsWith(word) || !Ends(bytes[place + word.Length]))
            throw new PageException($"not JSON: neither true, false nor null, at byte {place + 1}");
    }

    // A line break may be the comma that the scan of the rows has already replaced.
    private static bool Ends(byte b) => b is (byte)',' or (byte)'}' or (byte)']' or (byte)' ' or (byte)'\n' or (byte)'\r' or (byte)'\t' or 0;

    private static PageException NotANumber(int place) => new($"not JSON: not a number, at byte {place + 1}");

    private static PageException TooDeep(int place, int deepest) => new($"nested deeper than {deepest} levels, at byte {place + 1}");

    private static PageException Wrong(ReadOnlySpan<byte> bytes, ReadOnlySpan<int> places, int token, string expected) =>
        token >= places.Length - 1
            ? new PageException($"not JSON: the page is cut off after {places[^1]} bytes, where {expected} should follow")
            : new PageException($"not JSON: {expected} should stand at byte {places[token] + 1}");
}

using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;

namespace Cursiva.Core.Pulls;

/// <summary>Steps over one JSON value by its tokens, checking the grammar (RFC 8259).</summary>
internal static class JsonSkip
{
    /// <summary>Steps over the value that begins at a token by its brackets alone, without a check.</summary>
    /// <returns>The token behind the value, at most the end of the page.</returns>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public static int Lightly(ReadOnlySpan<byte> bytes, ReadOnlySpan<int> places, int token)
    {
        ref var page = ref MemoryMarshal.GetReference(bytes);
        ref var index = ref MemoryMarshal.GetReference(places);
        var (depth, end) = (0, places.Length - 1);
        while (token < end)
        {
            // With bit 5 set, both kinds of opening bracket are 0x7B and both kinds of closing ones 0x7D.
            var folded = Unsafe.Add(ref page, Unsafe.Add(ref index, token)) | 0x20;
            token++;
            if (folded == 0x7B)
                depth++;
            else if (folded == 0x7D)
                depth--;
            if (depth <= 0)
                return token;
        }

        return token;
    }

    /// <summary>Steps over the value that begins at a token.</summary>
    /// <param name="bytes">The page and the zero bytes after it.</param>
    /// <param name="places">The page's <see cref="TokenIndex"/>.</param>
    /// <param name="deepest">Most levels of nesting, up to 64.</param>
    /// <returns>The token behind the value.</returns>
    /// <exception cref="PageException">The grammar is broken, or the value is nested too deeply.</exception>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public static int Value(ReadOnlySpan<byte> bytes, ReadOnlySpan<int> places, int token, int deepest)
    {
        // Unchecked access: the last place is the end of the page, its byte is zero, and no step is made after it.
        ref var page = ref MemoryMarshal.GetReference(bytes);
        ref var index = ref MemoryMarshal.GetReference(places);
        var depth = 0;
        var objects = 0UL; // bit n tells whether level n is an object

    value:
        var place = Unsafe.Add(ref index, token);
        switch (Unsafe.Add(ref page, place))
        {
            case (byte)'"':
                token++;
                goto after;
            case (byte)'{':
                if (depth == deepest)
                    throw TooDeep(place, deepest);
                objects |= 1UL << depth++;
                token++;
                if (Unsafe.Add(ref page, Unsafe.Add(ref index, token)) == '}')
                    goto close;
                goto name;
            case (byte)'[':
                if (depth == deepest)
                    throw TooDeep(place, deepest);
                objects &= ~(1UL << depth++);
                token++;
                if (Unsafe.Add(ref page, Unsafe.Add(ref index, token)) == ']')
                    goto close;
                goto value;
            case (byte)'-' or (>= (byte)'0' and <= (byte)'9'):
                Number(ref page, place);
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
        if (Unsafe.Add(ref page, Unsafe.Add(ref index, token)) != '"')
            throw Wrong(bytes, places, token, "a name");
        token++;
        if (Unsafe.Add(ref page, Unsafe.Add(ref index, token)) != ':')
            throw Wrong(bytes, places, token, "a colon");
        token++;
        goto value;

    after:
        if (depth == 0)
            return token;
        var inObject = (objects & (1UL << (depth - 1))) != 0;
        switch (Unsafe.Add(ref page, Unsafe.Add(ref index, token)))
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

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static void Number(ref byte page, int start)
    {
        ref var at = ref Unsafe.Add(ref page, start);
        if (at == '-')
            at = ref Unsafe.Add(ref at, 1);
        var good = at is >= (byte)'0' and <= (byte)'9';
        at = ref at == '0' ? ref Unsafe.Add(ref at, 1) : ref Digits(ref at);
        if (at == '.')
        {
            at = ref Unsafe.Add(ref at, 1);
            good &= at is >= (byte)'0' and <= (byte)'9';
            at = ref Digits(ref at);
        }

        if (at is (byte)'e' or (byte)'E')
        {
            at = ref Unsafe.Add(ref at, 1);
            if (at is (byte)'+' or (byte)'-')
                at = ref Unsafe.Add(ref at, 1);
            good &= at is >= (byte)'0' and <= (byte)'9';
            at = ref Digits(ref at);
        }

        if (!good || !Ends(at))
            throw NotANumber(start);
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static ref byte Digits(ref byte at)
    {
        while ((uint)(at - '0') <= 9)
            at = ref Unsafe.Add(ref at, 1);
        return ref at;
    }

    private static void Literal(ReadOnlySpan<byte> bytes, int place, ReadOnlySpan<byte> word)
    {
        if (!bytes[place..].StartsWith(word) || !Ends(bytes[place + word.Length]))
            throw new PageException($"not JSON: neither true, false nor null, at byte {place + 1}");
    }

    // A line break may be the comma that the scan of the rows has already replaced.
    private static bool Ends(byte b) =>
        b is (byte)',' or (byte)'}' or (byte)']' or (byte)' ' or (byte)'\n' or (byte)'\r' or (byte)'\t' or 0;

    private static PageException NotANumber(int place) => new($"not JSON: not a number, at byte {place + 1}");

    private static PageException TooDeep(int place, int deepest) => new($"nested deeper than {deepest} levels, at byte {place + 1}");

    private static PageException Wrong(ReadOnlySpan<byte> bytes, ReadOnlySpan<int> places, int token, string expected) =>
        token >= places.Length - 1
            ? new PageException($"not JSON: the page is cut off after {places[^1]} bytes, and {expected} should follow")
            : new PageException($"not JSON: {expected} should be at byte {places[token] + 1}");
}

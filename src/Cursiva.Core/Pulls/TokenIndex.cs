using System.Buffers;
using System.Numerics;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using Cursiva.Core.Http;

namespace Cursiva.Core.Pulls;

/// <summary>
/// The places in a page where something begins or ends: brackets, braces, colons and commas outside strings, the opening quote
/// of every string, and the first byte of every number or literal. Found 64 bytes at a time, without a branch per byte.
/// </summary>
internal sealed class TokenIndex : IDisposable
{
    private const ulong EvenBits = 0x5555_5555_5555_5555;

    private int[] _places = ArrayPool<int>.Shared.Rent(64 * 1024);

    /// <summary>Number of places.</summary>
    public int Count { get; private set; }

    /// <summary>The places, followed by one more that is the length of the page, where a zero byte stands.</summary>
    public ReadOnlySpan<int> Places => _places.AsSpan(0, Count + 1);

    /// <summary>First white space outside a string; the length of the page when there is none.</summary>
    public int FirstSpace { get; private set; }

    /// <summary>Whether the page has a backslash anywhere.</summary>
    public bool HasBackslash { get; private set; }

    /// <summary>Indexes a page.</summary>
    /// <exception cref="PageException">A control character stands where none may, or the last string never ends.</exception>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    public void Build(PageBuffer page)
    {
        // Whatever is found wrong, no place of an earlier page stays.
        Count = 0;
        var length = page.Length;
        ref var first = ref MemoryMarshal.GetReference(page.Padded);
        ulong escapedAhead = 0, insideAhead = 0, scalarAhead = 0, anyBackslash = 0;
        var count = 0;
        var firstSpace = length;
        ref var places = ref MemoryMarshal.GetArrayDataReference(_places);
        for (var block = 0; block < length; block += 64)
        {
            if (count + 2 * 64 > _places.Length)
            {
                Grow(count);
                places = ref MemoryMarshal.GetArrayDataReference(_places);
            }

            Classify(
                ref Unsafe.Add(ref first, block), out var quotes, out var backslashes, out var structural, out var low, out var control);
            var valid = length - block >= 64 ? ulong.MaxValue : (1UL << (length - block)) - 1;
            anyBackslash |= backslashes;
            quotes &= ~Escaped(backslashes, ref escapedAhead) & valid;

            // From an opening quote up to the byte before the closing one.
            var inside = PrefixXor(quotes) ^ insideAhead;
            insideAhead = (ulong)((long)inside >> 63);
            var outside = ~(inside | quotes) & valid;
            if ((control & valid) != 0)
                CheckControl(page, block, control & inside & valid, control & outside);
            if ((low & outside) != 0 && firstSpace == length)
                firstSpace = block + BitOperations.TrailingZeroCount(low & outside);

            structural &= outside;
            var scalar = outside & ~structural & ~low;
            var starts = scalar & ~((scalar << 1) | scalarAhead);
            scalarAhead = scalar >> 63;

            // Eight at a time, needed or not: what is too many is overwritten by the next block.
            var bits = structural | (quotes & inside) | starts;
            var last = count + BitOperations.PopCount(bits);
            while (count < last)
            {
                for (var i = 0; i < 8; i++)
                {
                    Unsafe.Add(ref places, count + i) = block + BitOperations.TrailingZeroCount(bits);
                    bits &= bits - 1;
                }

                count += 8;
            }

            count = last;
        }

        FirstSpace = firstSpace;
        if (insideAhead != 0)
            throw new PageException($"not JSON: the page ends inside a string (after {length} bytes)");
        _places[count] = length;
        Count = count;
        HasBackslash = anyBackslash != 0;
    }

    public void Dispose()
    {
        ArrayPool<int>.Shared.Return(_places);
        _places = [];
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static void Classify(
        ref byte at, out ulong quotes, out ulong backslashes, out ulong structural, out ulong low, out ulong control)
    {
        // With bit 5 set, both kinds of opening bracket are 0x7B and both kinds of closing ones 0x7D.
        if (Vector512.IsHardwareAccelerated)
        {
            var all = Vector512.LoadUnsafe(ref at);
            var space = Vector512.Create((byte)' ');
            var folded = all | space;
            quotes = Vector512.Equals(all, Vector512.Create((byte)'"')).ExtractMostSignificantBits();
            backslashes = Vector512.Equals(all, Vector512.Create((byte)'\\')).ExtractMostSignificantBits();
            structural = (Vector512.Equals(folded, Vector512.Create((byte)'{')) | Vector512.Equals(folded, Vector512.Create((byte)'}'))
                | Vector512.Equals(all, Vector512.Create((byte)':')) | Vector512.Equals(
                    all, Vector512.Create((byte)','))).ExtractMostSignificantBits();
            low = Vector512.LessThanOrEqual(all, space).ExtractMostSignificantBits();
            control = Vector512.LessThan(all, space).ExtractMostSignificantBits();
            return;
        }

        // Where the machine has 128-bit vectors alone, .NET makes two of each of these.
        var (a, b) = (Vector256.LoadUnsafe(ref at), Vector256.LoadUnsafe(ref at, 32));
        var bit = Vector256.Create((byte)' ');
        quotes = Equal(a, b, (byte)'"');
        backslashes = Equal(a, b, (byte)'\\');
        structural = Equal(a | bit, b | bit, (byte)'{') | Equal(a | bit, b | bit, (byte)'}') | Equal(a, b, (byte)':') | Equal(
            a, b, (byte)',');
        low = Bits(Vector256.LessThanOrEqual(a, bit), Vector256.LessThanOrEqual(b, bit));
        control = Bits(Vector256.LessThan(a, bit), Vector256.LessThan(b, bit));
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static ulong Equal(Vector256<byte> a, Vector256<byte> b, byte value) =>
        Bits(Vector256.Equals(a, Vector256.Create(value)), Vector256.Equals(b, Vector256.Create(value)));

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static ulong Bits(Vector256<byte> a, Vector256<byte> b) =>
        a.ExtractMostSignificantBits() | ((ulong)b.ExtractMostSignificantBits() << 32);

    // The bytes that a backslash before them escapes: those behind an odd run of backslashes. Adding finds where a run ends.
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static ulong Escaped(ulong backslashes, ref ulong ahead)
    {
        if (backslashes == 0)
        {
            var carried = ahead;
            ahead = 0;
            return carried;
        }

        backslashes &= ~ahead;
        var follows = (backslashes << 1) | ahead;
        var oddStarts = backslashes & ~EvenBits & ~follows;
        var sum = oddStarts + backslashes;
        ahead = sum < oddStarts ? 1UL : 0;
        return (EvenBits ^ (sum << 1)) & follows;
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static ulong PrefixXor(ulong bits)
    {
        bits ^= bits << 1;
        bits ^= bits << 2;
        bits ^= bits << 4;
        bits ^= bits << 8;
        bits ^= bits << 16;
        return bits ^ (bits << 32);
    }

    private static void CheckControl(PageBuffer page, int block, ulong inside, ulong outside)
    {
        if (inside != 0)
            throw new PageException(
                $"not JSON: a control character inside a string, at byte {block + BitOperations.TrailingZeroCount(inside) + 1}");

        for (; outside != 0; outside &= outside - 1)
        {
            var place = block + BitOperations.TrailingZeroCount(outside);
            if (page.Content[place] is not ((byte)'\n' or (byte)'\r' or (byte)'\t'))
                throw new PageException($"not JSON: a control character, at byte {place + 1}");
        }
    }

    private void Grow(int count)
    {
        var larger = ArrayPool<int>.Shared.Rent(_places.Length * 2);
        _places.AsSpan(0, count).CopyTo(larger);
        ArrayPool<int>.Shared.Return(_places);
        _places = larger;
    }
}

using System.Buffers.Binary;
using System.Collections;
using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;

namespace Cursiva.Core.Tables;

/// <summary>
/// Rows of earlier runs that a newer row of the same key replaces, and that nothing depends on: neither the columns of the table, nor
/// their order, nor their types.
/// </summary>
internal static class ReplacedRows
{
    /// <summary>Keys that are held in memory at once, about 48 bytes each; more are looked at in several walks over the rows.</summary>
    private const int MostKeys = 1_000_000;

    /// <summary>Finds them.</summary>
    /// <param name="landings">The landings of a pull's rows, oldest first.</param>
    /// <param name="most">Keys held in memory at once.</param>
    /// <returns>A bit for each row, in order.</returns>
    public static BitArray Find(Pull pull, IReadOnlyList<StrandRows> landings, CancellationToken cancel, int most = MostKeys)
    {
        var replaced = new BitArray(checked((int)landings.Sum(rows => rows.Count)));
        var walks = (uint)(replaced.Count / most) + 1;
        for (var walk = 0u; walk < walks; walk++)
            Mark(pull, landings, replaced, (walk, walks), cancel);
        KeepWitnesses(pull, landings, replaced, cancel);
        return replaced;
    }

    private static void Mark(
        Pull pull, IReadOnlyList<StrandRows> landings, BitArray replaced, (uint Number, uint Of) walk, CancellationToken cancel)
    {
        var newest = new Dictionary<UInt128, int>();
        var row = 0;
        foreach (var rows in landings)
        {
            rows.Read(
                (strand, carried, line) =>
                {
                    var key = KeyOf(pull, strand, carried, line);
                    if ((uint)key % walk.Of == walk.Number)
                    {
                        if (newest.TryGetValue(key, out var before))
                            replaced[before] = true;
                        newest[key] = row;
                    }

                    row++;
                },
                cancel);
        }
    }

    // A row that was the first to show a column, or a kind of value in it, has to stay: the types of the table are made of it. The
    // first of its strand, since a strand that starts over takes its rows along.
    private static void KeepWitnesses(Pull pull, IReadOnlyList<StrandRows> landings, BitArray replaced, CancellationToken cancel)
    {
        var shapes = new Dictionary<string, (RowShape Shape, RowWalker Walker, int Seen)>(StringComparer.Ordinal);
        var row = 0;
        foreach (var rows in landings)
        {
            rows.Read(
                (strand, carried, line) =>
                {
                    var of = pull.Paging.Delta is null ? "" : strand;
                    if (!shapes.TryGetValue(of, out var known))
                    {
                        var shape = PullTable.ShapeOf(pull);
                        known = (shape, new RowWalker(shape, null, int.MaxValue), shape.Seen());
                    }

                    known.Walker.Walk(line, carried);
                    var now = known.Shape.Seen();
                    if (now != known.Seen)
                        replaced[row] = false;
                    shapes[of] = known with { Seen = now };
                    row++;
                },
                cancel);
        }
    }

    // Values are compared as they are written: what SQL takes for equal and this does not stays, and costs a row. A row replaces none
    // of another strand, which a later run may ask for from its start.
    private static UInt128 KeyOf(Pull pull, string strand, ReadOnlySpan<byte> carried, ReadOnlySpan<byte> line)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        Append(hash, Encoding.UTF8.GetBytes(strand));
        Append(hash, carried);
        foreach (var place in pull.Key)
            Append(hash, JsonFind.Raw(line[..^1], place));
        Span<byte> digest = stackalloc byte[32];
        hash.GetHashAndReset(digest);
        return BinaryPrimitives.ReadUInt128LittleEndian(digest);
    }

    private static void Append(IncrementalHash hash, ReadOnlySpan<byte> part)
    {
        Span<byte> length = stackalloc byte[4];
        BinaryPrimitives.WriteInt32LittleEndian(length, part.Length);
        hash.AppendData(length);
        hash.AppendData(part);
    }
}

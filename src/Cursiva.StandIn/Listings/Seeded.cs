namespace Cursiva.StandIn.Listings;

/// <summary>Numbers that look random and depend on seed, row and field alone, so that no row is ever stored.</summary>
public readonly struct Seeded(int seed, long row)
{
    /// <summary>A number from 0 up to <paramref name="below"/>, for the given field of the row.</summary>
    public int Pick(int field, int below) => (int)(Mix(field) % (ulong)below);

    /// <summary>A 64-bit number for the given field of the row.</summary>
    public ulong Mix(int field)
    {
        // SplitMix64's finaliser: cheap, and every input bit reaches every output bit.
        var z = (ulong)row * 0x9E3779B97F4A7C15 + (ulong)seed * 0xD1B54A32D192ED03 + (ulong)field * 0x8CB92BA72F3D8DD7;
        z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9;
        z = (z ^ (z >> 27)) * 0x94D049BB133111EB;
        return z ^ (z >> 31);
    }
}

namespace Bostel.Core.Geometry;

/// <summary>
/// Counter-based random numbers: the value depends on seed and index only, so that threads do not matter (splitmix64, Steele et al. 2014).
/// </summary>
public readonly struct SeededNoise(int seed)
{
    private readonly ulong _seed = Mix((ulong)seed + 0x9E3779B97F4A7C15UL);

    /// <summary>Uniform in (0, 1).</summary>
    public double Uniform(long index) => ((Mix(_seed ^ Mix((ulong)index)) >> 11) + 0.5) / 9007199254740992.0;

    /// <summary>Standard normal (Box and Muller 1958).</summary>
    public double Normal(long index) => Math.Sqrt(-2 * Math.Log(Uniform(2 * index))) * Math.Cos(2 * Math.PI * Uniform((2 * index) + 1));

    private static ulong Mix(ulong z)
    {
        z += 0x9E3779B97F4A7C15UL;
        z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9UL;
        z = (z ^ (z >> 27)) * 0x94D049BB133111EBUL;
        return z ^ (z >> 31);
    }
}

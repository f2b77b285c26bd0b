namespace Bostel.Core.Spatial;

/// <summary>An order of points in which neighbours follow each other: along the Morton curve through their box (Morton 1966).</summary>
public static class SpatialOrder
{
    private const int Levels = 10;

    /// <returns>Point numbers in order; points in one cell of a grid of 1024³ keep theirs.</returns>
    /// <param name="coordinates">3·N.</param>
    public static int[] Of(double[] coordinates)
    {
        var n = coordinates.Length / 3;
        var (low, high) = (new double[3], new double[3]);
        Array.Fill(low, double.PositiveInfinity);
        Array.Fill(high, double.NegativeInfinity);
        for (var i = 0; i < coordinates.Length; i++)
        {
            low[i % 3] = Math.Min(low[i % 3], coordinates[i]);
            high[i % 3] = Math.Max(high[i % 3], coordinates[i]);
        }

        var longest = Math.Max(high[0] - low[0], Math.Max(high[1] - low[1], high[2] - low[2]));
        var scale = longest > 0 ? ((1 << Levels) - 1) / longest : 0;
        var (codes, order) = (new ulong[n], new int[n]);
        for (var i = 0; i < n; i++)
        {
            ulong code = 0;
            for (var axis = 0; axis < 3; axis++)
            {
                code |= Spread((uint)((coordinates[(3 * i) + axis] - low[axis]) * scale)) << axis;
            }

            // The number in the low bits keeps the order of equal cells, so that the result does not depend on the sort.
            codes[i] = (code << 32) | (uint)i;
        }

        Array.Sort(codes);
        for (var i = 0; i < n; i++)
        {
            order[i] = (int)(uint)codes[i];
        }

        return order;
    }

    /// <summary>Ten bits with two zeros between each.</summary>
    private static ulong Spread(uint v)
    {
        ulong x = v & 0x3FF;
        x = (x | (x << 16)) & 0x30000FF;
        x = (x | (x << 8)) & 0x300F00F;
        x = (x | (x << 4)) & 0x30C30C3;
        return (x | (x << 2)) & 0x9249249;
    }
}

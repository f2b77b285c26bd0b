namespace Bostel.Core.Meshes;

/// <summary>How finely the coordinates of a file were written.</summary>
public static class CoordinatePrecision
{
    /// <summary>Coordinates looked at: a file is written with one precision throughout.</summary>
    private const int Sample = 6000;

    /// <summary>
    /// Largest rounding error of a coordinate, in the unit of the coordinates: half the last decimal where all end after at most six, half
    /// a unit in the last place where all are single-precision numbers, and that of double precision else.
    /// </summary>
    /// <param name="coordinates">3·N, as read from the file; a sample of them is looked at.</param>
    public static double Of(double[] coordinates)
    {
        var step = Math.Max(1, coordinates.Length / Sample);
        var sample = new List<double>();
        for (var i = 0; i < coordinates.Length; i += step)
        {
            sample.Add(coordinates[i]);
        }

        var largest = sample.Select(Math.Abs).DefaultIfEmpty(0).Max();
        var single = sample.All(c => c == (float)c);
        for (var decimals = 0; decimals <= 6; decimals++)
        {
            var power = Math.Pow(10, decimals);

            // A number of few decimals is kept as the double or the float next to it; large floats lie too far apart to tell.
            if (sample.All(c => Math.Abs((c * power) - Math.Round(c * power)) <= (single ? Math.Max(1e-9, Step(c)) : 1e-6))
                && (!single || Step(largest) < 0.1))
            {
                return Math.Max(0.5 / power, single ? Ulp(largest) / 2 : 0);
            }

            double Step(double c) => Math.Abs(c) * power * 1.2e-7;
        }

        return single ? Ulp(largest) / 2 : largest * 1e-15;
    }

    private static double Ulp(double value) => (double)MathF.BitIncrement((float)value) - (float)value;
}

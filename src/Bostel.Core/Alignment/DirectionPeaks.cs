using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>
/// The directions in which much of a surface faces: peaks of the area-weighted normal histogram (extended Gaussian image, Horn 1984).
/// </summary>
internal static class DirectionPeaks
{
    private static readonly Vector3D[] Bins = [.. StartValues.HalfSphere(600).SelectMany(d => new[] { d, -d })];

    /// <summary>At most <paramref name="most"/> unit directions, largest share first.</summary>
    public static List<(Vector3D Direction, double Share)> Find(SurfaceSamples samples, int most)
    {
        var mass = new double[Bins.Length];
        double total = 0;
        for (var i = 0; i < samples.Count; i++)
        {
            var n = samples.Normals[i];
            if (n.LengthSquared < 0.5)
            {
                continue;
            }

            mass[Nearest(n)] += samples.Areas[i];
            total += samples.Areas[i];
        }

        var peaks = new List<(Vector3D, double)>();
        var cosine = Math.Cos(9 * Math.PI / 180);
        while (peaks.Count < most && total > 0)
        {
            var best = -1;
            var bestMass = 0.0;
            for (var b = 0; b < Bins.Length; b++)
            {
                if (mass[b] <= 0)
                {
                    continue;
                }

                double sum = 0;
                for (var c = 0; c < Bins.Length; c++)
                {
                    sum += Bins[b].Dot(Bins[c]) > cosine ? mass[c] : 0;
                }

                if (sum > bestMass)
                {
                    (best, bestMass) = (b, sum);
                }
            }

            if (best < 0 || bestMass < 0.004 * total)
            {
                break;
            }

            var mean = Refine(samples, Bins[best]);
            peaks.Add((mean, bestMass / total));
            for (var c = 0; c < Bins.Length; c++)
            {
                mass[c] = Bins[c].Dot(Bins[best]) > Math.Cos(14 * Math.PI / 180) ? 0 : mass[c];
            }
        }

        return peaks;
    }

    /// <summary>Mean shift to the centre of the peak.</summary>
    private static Vector3D Refine(SurfaceSamples samples, Vector3D direction)
    {
        foreach (var window in (double[])[10, 6, 4])
        {
            var cosine = Math.Cos(window * Math.PI / 180);
            var sum = Vector3D.Zero;
            for (var i = 0; i < samples.Count; i++)
            {
                if (samples.Normals[i].Dot(direction) > cosine)
                {
                    sum += samples.Areas[i] * samples.Normals[i];
                }
            }

            direction = sum.LengthSquared > 0 ? sum.Normalized() : direction;
        }

        return direction;
    }

    private static int Nearest(Vector3D n)
    {
        var best = 0;
        var most = -2.0;
        for (var b = 0; b < Bins.Length; b++)
        {
            var dot = n.Dot(Bins[b]);
            if (dot > most)
            {
                (best, most) = (b, dot);
            }
        }

        return best;
    }
}

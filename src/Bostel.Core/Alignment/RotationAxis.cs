using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>
/// A rotation axis found in a surface: the axis; of the area that faces across it, the share whose normals meet it; and the angle by which
/// they miss it (rms), rad. Flat faces at right angles to an axis meet all that are parallel to it and do not count.
/// </summary>
public sealed record FoundAxis(Line3D Axis, double Share, double Rms);

/// <summary>
/// Finds the axis of a turned surface: all normals of a surface of revolution meet its axis, so in line coordinates the axis (c, c̄) makes
/// c̄·n + c·(p × n) vanish; the smallest eigenvector over all points, reweighted against what is not turned (Pottmann and Randrup,
/// Rotational and helical surface approximation for reverse engineering, Computing 60, 1998). Each miss is taken as an angle, over the
/// distance from the axis: the noise of normals far from it would otherwise pull the axis toward the surface.
/// </summary>
public static class RotationAxis
{
    private const int Rounds = 40;

    /// <summary>Sine of the angle to the axis from which on a normal says where it is.</summary>
    private const double Sideways = 0.2;

    /// <summary>Share of the area that faces across an axis, below which it is not told.</summary>
    private const double Little = 0.005;

    /// <summary>Share of what faces across that has to meet the axis.</summary>
    private const double Enough = 0.3;

    /// <exception cref="BadInputException">No normals, or no axis: the surface is flat, or a ball, or not turned.</exception>
    public static FoundAxis Find(TriangleMesh scan)
    {
        if (scan.TriangleCount == 0)
        {
            throw new BadInputException("The scan has no triangles: an axis is found from surface normals.");
        }

        var samples = SurfaceSamples.OfMesh(scan, 20_000);
        var center = scan.Bounds.Center;
        var size = scan.Bounds.Diagonal / 2;
        var weights = (double[])samples.Areas.Clone();
        FoundAxis? best = null;

        // Parts that are not turned must not rule the first fit: several starts along the principal directions of the normals.
        foreach (var start in Starts(samples, center))
        {
            var found = Settle(samples, weights, start, center, size);
            best = found is not null && (best is null || found.Share > best.Share) ? found : best;
        }

        return best is { Share: > Enough }
            ? best with { Axis = TurnedSurface.Sharpen(samples, best.Axis, 0.1, size) }
            : throw new BadInputException("No rotation axis was found: the normals of the surface do not meet one line.");
    }

    private static FoundAxis? Settle(SurfaceSamples samples, double[] areas, Line3D? start, Vector3D center, double size)
    {
        var axis = start;
        var scale = 0.2;
        for (var round = 0; round < Rounds; round++)
        {
            if (AxisOfRevolution.Of(Weighted(axis, scale), center) is not { } found)
            {
                return null;
            }

            axis = found;
            scale = Math.Max(1e-4, Math.Max(0.7 * scale, RobustMiss(samples, axis, size)));
        }

        var limit = Math.Clamp(4.685 * scale, 0.01, 0.1);
        double near = 0, total = 0, whole = 0, squares = 0;
        for (var i = 0; i < samples.Count; i++)
        {
            whole += areas[i];
            if (samples.Normals[i].Cross(axis!.Direction).Length < Sideways)
            {
                continue;
            }

            var miss = Miss(samples.Points[i], samples.Normals[i], axis, size);
            total += areas[i];
            if (Math.Abs(miss) < limit)
            {
                near += areas[i];
                squares += areas[i] * miss * miss;
            }
        }

        return total < Little * whole ? null : new(axis!, near / total, Math.Sqrt(squares / Math.Max(1e-300, near)));

        IEnumerable<(Vector3D, Vector3D, double)> Weighted(Line3D? about, double within)
        {
            for (var i = 0; i < samples.Count; i++)
            {
                var (p, n) = (samples.Points[i], samples.Normals[i]);
                var u = about is null ? 0 : Miss(p, n, about, size) / (4.685 * within);
                if (Math.Abs(u) < 1)
                {
                    yield return (p, n, areas[i] * (1 - (u * u)) * (1 - (u * u)) / Math.Pow(
                        about is null ? size : Reach(p, about, size), 2));
                }
            }
        }
    }

    private static IEnumerable<Line3D?> Starts(SurfaceSamples samples, Vector3D center)
    {
        yield return null;
        double xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;
        for (var i = 0; i < samples.Count; i++)
        {
            var (n, w) = (samples.Normals[i], samples.Areas[i]);
            (xx, xy, xz, yy, yz, zz) = (xx + (w * n.X * n.X), xy + (w * n.X * n.Y), xz + (w * n.X * n.Z), yy + (w * n.Y * n.Y),
                yz + (w * n.Y * n.Z), zz + (w * n.Z * n.Z));
        }

        foreach (var direction in SymmetricEigen.Solve3(xx, xy, xz, yy, yz, zz).Vectors)
        {
            yield return new(center, direction);
        }
    }

    /// <summary>Sine of the angle by which the normal leaves the plane through the point and the axis.</summary>
    private static double Miss(Vector3D p, Vector3D n, Line3D axis, double size) =>
        (p - axis.Point).Dot(axis.Direction.Cross(n)) / Reach(p, axis, size);

    /// <summary>Distance from the axis, not below a twentieth of the size: near the axis normals say little about it.</summary>
    private static double Reach(Vector3D p, Line3D axis, double size) => Math.Max(0.05 * size, axis.Distance(p));

    private static double RobustMiss(SurfaceSamples samples, Line3D axis, double size)
    {
        var sizes = Enumerable.Range(0, samples.Count).Select(i => Math.Abs(Miss(samples.Points[i], samples.Normals[i], axis, size)))
            .Order().ToArray();

        // The better three tenths, so that half of the surface may be something else.
        return sizes[3 * sizes.Length / 10] / 0.3853;
    }
}

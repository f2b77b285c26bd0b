using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Alignment;

/// <summary>
/// Sharpens a rotation axis on the points of a turned surface whose profile is not known: points of the same height are to lie equally far from the axis. The
/// profile is taken straight within narrow slices along the axis and eliminated from the least-squares problem slice by slice (variable projection, Golub
/// and Pereyra 1973); what is left are two shifts and two tilts of the axis.
/// </summary>
internal static class TurnedSurface
{
    private const int PointsPerSlice = 60;
    private const int MostSteps = 12;

    /// <param name="samples">Points of the surface with their areas.</param>
    /// <param name="start">An axis near the true one.</param>
    /// <param name="limit">Normals that miss the axis by more than this angle (rad) are not of the turned surface.</param>
    public static Line3D Sharpen(SurfaceSamples samples, Line3D start, double limit, double size)
    {
        var axis = start;
        for (var step = 0; step < MostSteps; step++)
        {
            var frame = Frames.Along(axis.Point, axis.Direction);
            var local = Local(samples, frame, limit, size);
            if (local.Count < 5 * PointsPerSlice || Step(local) is not { } delta)
            {
                return axis;
            }

            var moved = Frames.Tilted(frame, delta[2] / size, delta[3] / size, new(delta[0], delta[1], 0));
            axis = new(moved.Translation, moved.Rotate(Vector3D.UnitZ));
            if (delta.Max(Math.Abs) < 1e-9 * size)
            {
                break;
            }
        }

        return axis;
    }

    /// <summary>Height, distance from the axis, and how that changes with the axis' two shifts and two tilts (times the size).</summary>
    private static List<(double Z, double[] Row)> Local(SurfaceSamples samples, RigidTransform frame, double limit, double size)
    {
        var inverse = frame.Inverse();
        var rows = new List<(double, double[])>();
        for (var i = 0; i < samples.Count; i++)
        {
            var (p, n) = (inverse.Apply(samples.Points[i]), inverse.Rotate(samples.Normals[i]));
            var rho = Math.Sqrt((p.X * p.X) + (p.Y * p.Y));

            // Flat parts across the axis, and points near it, say nothing about where it is; steep ones count by how squarely they face it.
            var across = rho > 0 ? ((n.X * p.X) + (n.Y * p.Y)) / rho : 0;
            var miss = rho > 0 ? ((n.Y * p.X) - (n.X * p.Y)) / rho : 1;
            if (rho > 0.05 * size && Math.Abs(across) > 0.3 && Math.Abs(miss) < limit)
            {
                var (x, y) = (-p.X / rho, -p.Y / rho);
                rows.Add((p.Z, [rho, x, y, x * p.Z / size, y * p.Z / size]));
            }
        }

        rows.Sort((a, b) => a.Item1.CompareTo(b.Item1));
        return rows;
    }

    private static double[]? Step(List<(double Z, double[] Row)> rows)
    {
        var (matrix, right) = (new double[4, 4], new double[4]);
        var slices = rows.Count / PointsPerSlice;
        for (var s = 0; s < slices; s++)
        {
            var (from, to) = ((int)((long)s * rows.Count / slices), (int)((long)(s + 1) * rows.Count / slices));
            foreach (var r in WithoutLine(rows.GetRange(from, to - from)))
            {
                for (var a = 0; a < 4; a++)
                {
                    right[a] -= r[a + 1] * r[0];
                    for (var b = 0; b < 4; b++)
                    {
                        matrix[a, b] += r[a + 1] * r[b + 1];
                    }
                }
            }
        }

        var delta = new double[4];
        return LinearSolve.Cholesky(matrix, right, delta) ? delta : null;
    }

    /// <summary>Takes the best straight line over the height out of each column.</summary>
    private static IEnumerable<double[]> WithoutLine(List<(double Z, double[] Row)> slice)
    {
        var middle = slice.Average(p => p.Z);
        var spread = slice.Sum(p => (p.Z - middle) * (p.Z - middle));
        var means = new double[5];
        var slopes = new double[5];
        for (var c = 0; c < 5; c++)
        {
            means[c] = slice.Average(p => p.Row[c]);
            slopes[c] = spread > 0 ? slice.Sum(p => (p.Z - middle) * p.Row[c]) / spread : 0;
        }

        return slice.Select(p => (double[])[.. Enumerable.Range(0, 5).Select(c => p.Row[c] - means[c] - (slopes[c] * (p.Z - middle)))]);
    }
}

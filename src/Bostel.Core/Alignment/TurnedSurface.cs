using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>
/// Sharpens a rotation axis on the points of a turned surface whose profile is not known. Turned into one half plane, points that lie near
/// each other and face alike are on one piece of the profile, wherever around the axis they come from. A piece is taken for a parabola and
/// eliminated from the least-squares problem (variable projection, Golub and Pereyra 1973); what is left are two shifts and two tilts of
/// the axis. What is not turned is weighted out (biweight, Beaton and Tukey 1974).
/// </summary>
internal static class TurnedSurface
{
    private const int MostSteps = 20;
    private const int Fewest = 12;

    /// <summary>Pieces of the profile: parts of the size, and of a whole turn of its normal.</summary>
    private const int Across = 40, Facings = 12;

    private const int Unknowns = 4;

    /// <param name="samples">Points of the surface with their areas.</param>
    /// <param name="start">An axis near the true one.</param>
    /// <param name="limit">Normals that miss the axis by more than this angle (rad) are not of the turned surface.</param>
    /// <param name="size">Half the diagonal of the surface, mm.</param>
    public static Line3D Sharpen(SurfaceSamples samples, Line3D start, double limit, double size)
    {
        var axis = start;
        for (var step = 0; step < MostSteps; step++)
        {
            var frame = Frames.Along(axis.Point, axis.Direction);
            var pieces = Pieces(samples, frame, limit, size);
            if (Step(pieces) is not { } delta)
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

    /// <param name="Along">Place along the piece of the profile, mm.</param>
    /// <param name="Row">Distance across it, and how that changes with the axis' two shifts and two tilts (times the size).</param>
    private sealed record Point(double Along, double[] Row);

    private static List<List<Point>> Pieces(SurfaceSamples samples, RigidTransform frame, double limit, double size)
    {
        var inverse = frame.Inverse();
        var members = new SortedDictionary<(int, int, int), List<(double Rho, double Z, double Nr, double Nz, double X, double Y)>>();
        for (var i = 0; i < samples.Count; i++)
        {
            var (p, n) = (inverse.Apply(samples.Points[i]), inverse.Rotate(samples.Normals[i]));
            var rho = Math.Sqrt((p.X * p.X) + (p.Y * p.Y));
            if (rho < 1e-6 * size || Math.Abs((n.Y * p.X) - (n.X * p.Y)) > limit * rho)
            {
                continue;
            }

            var (x, y) = (p.X / rho, p.Y / rho);
            var across = (n.X * x) + (n.Y * y);
            var facing = (int)Math.Floor(Facings * ((Math.Atan2(n.Z, across) / (2 * Math.PI)) + 0.5));
            var key = ((int)Math.Floor(Across * rho / size), (int)Math.Floor(Across * p.Z / size), facing % Facings);
            if (!members.TryGetValue(key, out var list))
            {
                members[key] = list = [];
            }

            list.Add((rho, p.Z, across, n.Z, x, y));
        }

        var pieces = new List<List<Point>>();
        foreach (var piece in members.Values.Where(m => m.Count >= Fewest))
        {
            // One direction for the piece: each point's own would mix its noise with what is measured.
            var (nr, nz) = (piece.Sum(p => p.Nr), piece.Sum(p => p.Nz));
            var length = Math.Sqrt((nr * nr) + (nz * nz));
            var (r, z) = (nr / length, nz / length);
            pieces.Add([.. piece.Select(p => new Point((r * p.Z) - (z * p.Rho),
            [
                (r * p.Rho) + (z * p.Z),
                -r * p.X,
                -r * p.Y,
                ((z * p.Rho) - (r * p.Z)) * p.X / size,
                ((z * p.Rho) - (r * p.Z)) * p.Y / size,
            ]))]);
        }

        return pieces;
    }

    private static double[]? Step(List<List<Point>> pieces)
    {
        var plain = pieces.Select(p => WithoutProfile(p, null)).ToList();
        var sizes = plain.SelectMany(p => p).Select(r => Math.Abs(r[0])).Order().ToArray();
        if (sizes.Length < 10 * Unknowns)
        {
            return null;
        }

        var cutoff = Math.Max(1e-12, 4.685 * 1.4826 * sizes[sizes.Length / 2]);
        var (matrix, right) = (new double[Unknowns, Unknowns], new double[Unknowns]);
        for (var k = 0; k < pieces.Count; k++)
        {
            var weights = plain[k].Select(r => Math.Abs(r[0]) < cutoff ? Math.Pow(1 - (r[0] * r[0] / (cutoff * cutoff)), 2) : 0).ToArray();
            var rows = WithoutProfile(pieces[k], weights);
            for (var i = 0; i < rows.Length; i++)
            {
                for (var a = 0; a < Unknowns; a++)
                {
                    right[a] -= weights[i] * rows[i][a + 1] * rows[i][0];
                    for (var b = 0; b < Unknowns; b++)
                    {
                        matrix[a, b] += weights[i] * rows[i][a + 1] * rows[i][b + 1];
                    }
                }
            }
        }

        var delta = new double[Unknowns];
        return LinearSolve.Cholesky(matrix, right, delta) ? delta : null;
    }

    /// <summary>
    /// Takes the best parabola along the profile out of each column; where the points lie too close together for one, their mean.
    /// </summary>
    private static double[][] WithoutProfile(List<Point> piece, double[]? weights)
    {
        var total = weights?.Sum() ?? piece.Count;
        var middle = total > 0 ? piece.Select((p, i) => (weights?[i] ?? 1) * p.Along).Sum() / total : 0;
        var reach = Math.Max(1e-12, piece.Max(p => Math.Abs(p.Along - middle)));
        var terms = piece.Select(p => (p.Along - middle) / reach).Select(t => (double[])[1, t, t * t]).ToArray();
        var matrix = new double[3, 3];
        for (var i = 0; i < terms.Length; i++)
        {
            for (var a = 0; a < 3; a++)
            {
                for (var b = 0; b < 3; b++)
                {
                    matrix[a, b] += (weights?[i] ?? 1) * terms[i][a] * terms[i][b];
                }
            }
        }

        var rows = piece.Select(p => (double[])p.Row.Clone()).ToArray();
        for (var c = 0; c <= Unknowns; c++)
        {
            var (right, found) = (new double[3], new double[3]);
            for (var i = 0; i < terms.Length; i++)
            {
                for (var a = 0; a < 3; a++)
                {
                    right[a] += (weights?[i] ?? 1) * terms[i][a] * rows[i][c];
                }
            }

            if (!LinearSolve.Cholesky(matrix, right, found))
            {
                found = [total > 0 ? right[0] / total : 0, 0, 0];
            }

            for (var i = 0; i < terms.Length; i++)
            {
                rows[i][c] -= (found[0] * terms[i][0]) + (found[1] * terms[i][1]) + (found[2] * terms[i][2]);
            }
        }

        return rows;
    }
}

using Bostel.Core.Geometry;

namespace Bostel.Core.Alignment;

/// <summary>A point of the scan and where it belongs on the nominal, mm, with a relative weight.</summary>
public sealed record PointPair(Vector3D Scan, Vector3D Nominal, double Weight = 1);

/// <summary>
/// The rigid motion that brings points onto their partners by weighted least squares (Horn 1987, closed form with unit quaternions).
/// </summary>
public static class PointPairs
{
    /// <returns>Scan to nominal, and the distance left at each pair.</returns>
    /// <exception cref="UndeterminedException">Fewer than three pairs, or all on one line: the turn about it stays free.</exception>
    public static (RigidTransform Transform, double[] Residuals) Fit(IReadOnlyList<PointPair> pairs)
    {
        var used = pairs.Where(p => p.Weight > 0).ToList();
        if (used.Count < 3)
        {
            throw new UndeterminedException($"pairs: {used.Count} point pairs are too few: three that do not lie on a line are needed.");
        }

        var weight = used.Sum(p => p.Weight);
        var from = used.Aggregate(Vector3D.Zero, (s, p) => s + (p.Weight / weight * p.Scan));
        var to = used.Aggregate(Vector3D.Zero, (s, p) => s + (p.Weight / weight * p.Nominal));
        var m = new double[3, 3];
        double spread = 0;
        foreach (var p in used)
        {
            var (a, b) = (p.Scan - from, p.Nominal - to);
            spread += p.Weight * a.LengthSquared;
            for (var r = 0; r < 3; r++)
            {
                for (var c = 0; c < 3; c++)
                {
                    m[r, c] += p.Weight * a[r] * b[c];
                }
            }
        }

        var (xx, xy, xz, yx, yy, yz, zx, zy, zz) = (m[0, 0], m[0, 1], m[0, 2], m[1, 0], m[1, 1], m[1, 2], m[2, 0], m[2, 1], m[2, 2]);
        var (values, vectors) = SymmetricEigen.Solve(new[,]
        {
            { xx + yy + zz, yz - zy, zx - xz, xy - yx },
            { yz - zy, xx - yy - zz, xy + yx, zx + xz },
            { zx - xz, xy + yx, yy - xx - zz, yz + zy },
            { xy - yx, zx + xz, yz + zy, zz - xx - yy },
        });

        // For points on a line two of the eigenvalues are the same: any turn about the line is as good.
        if (!(values[3] - values[2] > 1e-9 * spread))
        {
            throw new UndeterminedException("pairs: the points lie on a line or in one place: the turn about it stays free.");
        }

        var q = new Vector3D(vectors[1, 3], vectors[2, 3], vectors[3, 3]);
        var angle = 2 * Math.Atan2(q.Length, vectors[0, 3]);
        var turn = q.Length > 0 ? RigidTransform.FromAxisAngle(q, angle) : RigidTransform.Identity;
        var transform = turn with { Translation = to - turn.Rotate(from) };
        return (transform, [.. pairs.Select(p => Vector3D.Distance(transform.Apply(p.Scan), p.Nominal))]);
    }
}

using Bostel.Core.Geometry;

namespace Bostel.Core.Preparation;

/// <summary>Spans a closed loop of points with triangles, without new points.</summary>
internal static class PatchTriangulation
{
    /// <summary>Longer loops are first cut in two at their best chord: the exact optimum costs the cube of the length.</summary>
    private const int ExactUpTo = 80;

    /// <summary>Angles that differ by less, rad, are one: the area decides.</summary>
    private const double Alike = 1e-9;

    /// <summary>
    /// The triangulation with the least worst dihedral angle, then the least area (Barequet and Sharir 1995; Liepa 2003), over loops of up
    /// to eighty points; longer ones are halved at the chord shortest in proportion to the points it cuts off.
    /// </summary>
    /// <param name="points">The loop in order.</param>
    /// <param name="outside">Normal of the mesh triangle at edge i → i+1; the zero vector where there is none.</param>
    /// <returns>Index triples into the loop.</returns>
    public static List<(int A, int B, int C)> Span(IReadOnlyList<Vector3D> points, IReadOnlyList<Vector3D> outside)
    {
        var triangles = new List<(int, int, int)>(points.Count - 2);
        var pending = new Stack<int[]>();
        pending.Push([.. Enumerable.Range(0, points.Count)]);
        while (pending.TryPop(out var loop))
        {
            if (loop.Length <= ExactUpTo)
            {
                Exact(loop, points, outside, triangles);
                continue;
            }

            var (i, j) = Chord(loop, points);
            pending.Push([.. loop[i..(j + 1)]]);
            pending.Push([.. loop[j..], .. loop[..(i + 1)]]);
        }

        return triangles;
    }

    private static (int, int) Chord(int[] loop, IReadOnlyList<Vector3D> points)
    {
        var n = loop.Length;
        var best = (0, n / 2);
        var least = double.PositiveInfinity;
        for (var i = 0; i < n; i++)
        {
            for (var j = i + (n / 4); j < Math.Min(n, i + (3 * n / 4)); j++)
            {
                var cut = Vector3D.Distance(points[loop[i]], points[loop[j]]) / Math.Min(j - i, n - j + i);
                if (cut < least)
                {
                    (least, best) = (cut, (i, j));
                }
            }
        }

        return best;
    }

    private static void Exact(int[] loop, IReadOnlyList<Vector3D> points, IReadOnlyList<Vector3D> outside, List<(int, int, int)> triangles)
    {
        var n = loop.Length;
        var angle = new double[n, n];
        var area = new double[n, n];
        var apex = new int[n, n];
        Vector3D[] p = [.. loop.Select(i => points[i])];

        // Below each chord lies the best triangle of its part, or the mesh. Chords made by halving a long loop have no triangle outside.
        var below = new Vector3D[n, n];
        Vector3D Outside(int i) => (loop[i] + 1) % points.Count == loop[(i + 1) % n] ? outside[loop[i]] : Vector3D.Zero;
        for (var i = 0; i + 1 < n; i++)
        {
            below[i, i + 1] = Outside(i);
        }

        for (var gap = 2; gap < n; gap++)
        {
            for (var i = 0; i + gap < n; i++)
            {
                var k = i + gap;
                var (least, smallest) = (double.PositiveInfinity, double.PositiveInfinity);
                for (var m = i + 1; m < k; m++)
                {
                    var worst = Math.Max(angle[i, m], angle[m, k]);
                    if (worst >= least + Alike)
                    {
                        continue;
                    }

                    var normal = (p[m] - p[i]).Cross(p[k] - p[i]);
                    worst = Math.Max(worst, Math.Max(Fold(normal, below[i, m]), Fold(normal, below[m, k])));
                    if (gap == n - 1)
                    {
                        worst = Math.Max(worst, Fold(normal, Outside(k)));
                    }

                    var size = area[i, m] + area[m, k] + (0.5 * normal.Length);
                    if (worst < least - Alike || (worst < least + Alike && size < smallest))
                    {
                        (least, smallest, apex[i, k], below[i, k]) = (worst, size, m, normal);
                    }
                }

                (angle[i, k], area[i, k]) = (least, smallest);
            }
        }

        var parts = new Stack<(int, int)>();
        parts.Push((0, n - 1));
        while (parts.TryPop(out var part))
        {
            var (i, k) = part;
            if (k - i < 2)
            {
                continue;
            }

            var m = apex[i, k];
            triangles.Add((loop[i], loop[m], loop[k]));
            parts.Push((i, m));
            parts.Push((m, k));
        }
    }

    /// <summary>
    /// How far two neighbours are from lying flat, 0 to 2 (1 − cosine); flat beside nothing or beside a triangle without area.
    /// </summary>
    private static double Fold(Vector3D a, Vector3D b)
    {
        var product = Math.Sqrt(a.LengthSquared * b.LengthSquared);
        return product > 0 ? 1 - (a.Dot(b) / product) : a.LengthSquared > 0 ? 0 : 2;
    }
}

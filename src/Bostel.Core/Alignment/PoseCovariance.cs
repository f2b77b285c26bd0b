using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>
/// Covariance of a fitted pose among residuals that are correlated: deviations of form reach far over a part, and their neighbours repeat
/// each other. The sandwich A⁻¹BA⁻¹ (White 1980), A the mean of ggᵀ over the points, g a point's row of the design, B the mean of g
/// gᵀ C(d) over all pairs (Conley, GMM estimation with cross sectional dependence, 1999), C the covariance of residuals at a distance, as
/// found, up to where it is first lost in its noise. A deviation that pushes all sides outward alike so counts for little: its pulls
/// cancel.
/// </summary>
internal static class PoseCovariance
{
    private const int Probes = 120;
    private const int Bins = 32;

    /// <summary>Pairs below which a distance says nothing.</summary>
    private const int FewPairs = 50;

    /// <summary>Standard errors below which a covariance is taken for lost.</summary>
    private const double Significant = 3;

    /// <param name="triangles">Weights of the nominal's triangles, by number.</param>
    /// <param name="free">Motions that were not locked.</param>
    /// <returns>Infinite for motions that the surface does not resist; of the others what is left when those stay as they are.</returns>
    public static PoseUncertainty Of(
        PointToPlane.Outcome outcome, SurfaceSamples samples, Func<int, double> triangles, Vector3D center, int[] free)
    {
        var rows = Rows(outcome, samples, triangles, center, free);
        var covariance = new double[36];
        var (a, variance) = Design(rows, free.Length);
        if (rows.Count <= free.Length)
        {
            foreach (var i in free)
            {
                covariance[7 * i] = double.PositiveInfinity;
            }

            return new(covariance, center, rows.Count);
        }

        var (inverse, felt) = Inverse(a);
        var b = Pairs(rows, a, variance);
        var half = Times(inverse, b);
        var sandwich = Times(half, inverse);
        var trace = Enumerable.Range(0, free.Length).Sum(r => half[r, r]);

        // The fit took its parameters' share of the variance: as much as with so many independent points. One degree of freedom is left at
        // the least.
        var effective = trace > 0 ? variance * free.Length / trace : rows.Count;
        var taken = effective / Math.Max(1, effective - free.Length);
        for (var r = 0; r < free.Length; r++)
        {
            for (var c = 0; c < free.Length; c++)
            {
                var scale = (free[r] < 3 ? outcome.Lever : 1) * (free[c] < 3 ? outcome.Lever : 1);
                covariance[(6 * free[r]) + free[c]] = taken * sandwich[r, c] / scale;
            }
        }

        foreach (var motion in felt.Count < free.Length ? Unresisted(felt, center, outcome.Lever, free) : [])
        {
            covariance[7 * (int)motion] = double.PositiveInfinity;
        }

        return new(covariance, center, effective);
    }

    /// <param name="G">Its row of the design times the root of its weight.</param>
    /// <param name="Residual">mm, times the root of its weight.</param>
    private readonly record struct Row(Vector3D Point, double[] G, double Residual);

    private static List<Row> Rows(
        PointToPlane.Outcome outcome, SurfaceSamples samples, Func<int, double> triangles, Vector3D center, int[] free)
    {
        var rows = new List<Row>(samples.Count);
        var cutoff = 4.685 * outcome.Scale;
        var mean = outcome.Used > 0 ? outcome.Weight / outcome.Used : 1;
        Span<double> g = stackalloc double[6];
        for (var i = 0; i < samples.Count; i++)
        {
            var u = outcome.Residuals[i] / cutoff;
            if (!(Math.Abs(u) < 1))
            {
                continue;
            }

            // Weights of mean one; each takes its root to either side of a product.
            var w = Math.Sqrt(samples.Areas[i] * triangles(outcome.Triangles[i]) / mean) * (1 - (u * u));
            var p = outcome.Transform.Apply(samples.Points[i]);
            var n = outcome.Normals[i];
            var arm = (p - center).Cross(n) / outcome.Lever;
            (g[0], g[1], g[2], g[3], g[4], g[5]) = (w * arm.X, w * arm.Y, w * arm.Z, w * n.X, w * n.Y, w * n.Z);
            var row = new double[free.Length];
            for (var k = 0; k < row.Length; k++)
            {
                row[k] = g[free[k]];
            }

            rows.Add(new(p, row, w * outcome.Residuals[i]));
        }

        return rows;
    }

    private static (double[,] A, double Variance) Design(List<Row> rows, int count)
    {
        var a = new double[count, count];
        double squares = 0;
        foreach (var row in rows)
        {
            Add(a, row.G, row.G, 1.0 / rows.Count);
            squares += row.Residual * row.Residual;
        }

        return (a, squares / Math.Max(1, rows.Count));
    }

    /// <summary>B: what independent points would leave, and what pairs at a distance add to it.</summary>
    private static double[,] Pairs(List<Row> rows, double[,] a, double variance)
    {
        var count = a.GetLength(0);
        var independent = new double[count, count];
        for (var r = 0; r < count; r++)
        {
            for (var c = 0; c < count; c++)
            {
                independent[r, c] = variance / rows.Count * a[r, c];
            }
        }

        var reach = Math.Max(1e-9, Box3D.Of([.. rows.Select(r => r.Point)]).Diagonal);
        int[] probes =
            [.. Enumerable.Range(0, Math.Min(Probes, rows.Count)).Select(k => (int)((long)k * rows.Count / Math.Min(Probes, rows.Count)))];
        var (found, lost) = Covariances(rows, probes, reach, variance);
        var parts = new double[probes.Length][,];
        Parallel.For(0, lost == 0 ? 0 : probes.Length, k =>
        {
            var sum = new double[count];
            for (var j = 0; j < rows.Count; j++)
            {
                var bin = Bin(rows[probes[k]].Point, rows[j].Point, reach);
                if (bin < lost && j != probes[k])
                {
                    for (var c = 0; c < count; c++)
                    {
                        sum[c] += found[bin] * rows[j].G[c];
                    }
                }
            }

            parts[k] = new double[count, count];
            Add(parts[k], rows[probes[k]].G, sum, 0.5 / probes.Length / rows.Count);
            Add(parts[k], sum, rows[probes[k]].G, 0.5 / probes.Length / rows.Count);
        });
        var more = new double[count, count];
        foreach (var part in parts.Where(p => p is not null))
        {
            for (var r = 0; r < count; r++)
            {
                for (var c = 0; c < count; c++)
                {
                    more[r, c] += part[r, c];
                }
            }
        }

        // Correlation never makes a pose surer than independent points would.
        var (values, vectors) = SymmetricEigen.Solve(more);
        for (var k = 0; k < count; k++)
        {
            var v = Enumerable.Range(0, count).Select(r => vectors[r, k]).ToArray();
            Add(independent, v, v, Math.Max(0, values[k]));
        }

        return independent;
    }

    /// <summary>Mean product of residuals by distance, and the first distance at which nothing is left of it.</summary>
    private static (double[] Found, int Lost) Covariances(List<Row> rows, int[] probes, double reach, double variance)
    {
        var (products, counts) = (new double[probes.Length, Bins], new int[probes.Length, Bins]);
        Parallel.For(0, probes.Length, k =>
        {
            for (var j = 0; j < rows.Count; j++)
            {
                if (j != probes[k])
                {
                    var bin = Bin(rows[probes[k]].Point, rows[j].Point, reach);
                    products[k, bin] += rows[probes[k]].Residual * rows[j].Residual;
                    counts[k, bin]++;
                }
            }
        });
        var found = new double[Bins];
        for (var bin = 0; bin < Bins; bin++)
        {
            double sum = 0;
            var pairs = 0;
            for (var k = 0; k < probes.Length; k++)
            {
                sum += products[k, bin];
                pairs += counts[k, bin];
            }

            if (pairs >= FewPairs && sum / pairs < Significant * variance / Math.Sqrt(pairs))
            {
                return (found, bin);
            }

            found[bin] = pairs > 0 ? Math.Max(0, sum / pairs) : 0;
        }

        return (found, Bins);
    }

    /// <summary>Bins are narrow where distances are short.</summary>
    private static int Bin(Vector3D p, Vector3D q, double reach) =>
        Math.Min(Bins - 1, (int)(Bins * Math.Sqrt(Vector3D.Distance(p, q) / reach)));

    /// <summary>The inverse on the motions that are felt, and these, unit columns.</summary>
    private static (double[,] Inverse, List<double[]> Felt) Inverse(double[,] a)
    {
        const double Least = 1e-7;
        var count = a.GetLength(0);
        var (values, vectors) = SymmetricEigen.Solve(a);
        if (count > 0 && values[0] > Least * values[^1] && LinearSolve.Inverse(a) is { } whole)
        {
            return (whole, [.. Enumerable.Range(0, count).Select(Column)]);
        }

        var (inverse, felt) = (new double[count, count], new List<double[]>());
        for (var k = 0; k < count; k++)
        {
            if (values[k] > Least * values[^1])
            {
                felt.Add(Column(k));
                Add(inverse, Column(k), Column(k), 1 / values[k]);
            }
        }

        return (inverse, felt);
        double[] Column(int k) => [.. Enumerable.Range(0, count).Select(r => vectors[r, k])];
    }

    /// <summary>Motions that neither the surface nor a lock holds.</summary>
    private static IEnumerable<Motion> Unresisted(List<double[]> felt, Vector3D center, double lever, int[] free)
    {
        var motions = new FreeMotions(center, lever);
        double[] Unit(int i) => [.. Enumerable.Range(0, 6).Select(k => k == i ? 1.0 : 0)];
        motions.Fix([.. Enumerable.Range(0, 6).Except(free).Select(i => (Unit(i), 0.0))]);
        motions.Fix([.. felt.Select(v => (Whole(v), 0.0))]);
        return motions.Named;

        double[] Whole(double[] v) =>
            [.. Enumerable.Range(0, 6).Select(i => Array.IndexOf(free, i) is >= 0 and var at ? v[at] : 0)];
    }

    private static void Add(double[,] to, double[] u, double[] v, double factor)
    {
        for (var r = 0; r < u.Length; r++)
        {
            for (var c = 0; c < v.Length; c++)
            {
                to[r, c] += factor * u[r] * v[c];
            }
        }
    }

    private static double[,] Times(double[,] a, double[,] b)
    {
        var n = a.GetLength(0);
        var product = new double[n, n];
        for (var r = 0; r < n; r++)
        {
            for (var c = 0; c < n; c++)
            {
                for (var k = 0; k < n; k++)
                {
                    product[r, c] += a[r, k] * b[k, c];
                }
            }
        }

        return product;
    }
}

using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Features;

/// <summary>A curve found in the points of a sheet, and the places of it that have points behind them.</summary>
/// <param name="Covered">Per place at one spacing along the curve.</param>
internal sealed record FoundEdge(EdgeCurve Curve, bool[] Covered)
{
    public double Coverage => (double)Covered.Count(c => c) / Covered.Length;
}

/// <summary>
/// Where the points of a sheet end. Points spread over a surface that ends at a curve are a Poisson process whose density there falls to
/// nothing; the curve is the one of the greatest likelihood, the step softened so that it can be sought by Newton's method, and points
/// beyond it allowed for (Daley and Vere-Jones, An Introduction to the Theory of Point Processes, 2003, 7.1). What is gained by taking
/// in empty surface is weighed against the points that this puts beyond the edge. The softness and the arrangement of the points move the
/// curve by a part of a spacing; <see cref="TrialCuts"/> tell by how much.
/// </summary>
internal sealed class EdgeFit
{
    /// <summary>Share of points that may be anywhere: strays, and what lies on a burr.</summary>
    private const double Astray = 1e-3;

    /// <summary>Softness of the step at the end of the search, in spacings.</summary>
    private const double Sharpest = 0.15;

    /// <summary>A place has points behind it when this many lie around the probe there; seven are expected.</summary>
    private const int LeastBehind = 2;

    /// <summary>How deep the probe stands, and how far round it points count; spacings.</summary>
    private const double ProbeDepth = 2, ProbeRadius = 1.5;

    private const int MostSteps = 30;

    /// <summary>A step shorter than this share of a spacing ends the search; none is shortened to less than this share of itself.</summary>
    private const double Still = 1e-4, Shortest = 1e-3;

    /// <summary>Deeper in the material than so many softnesses nothing depends on the edge.</summary>
    private const double Deep = 6;

    private readonly double[] _points;
    private readonly PointTree _tree;

    /// <param name="points">Points in the plane of the sheet, 3·N with z = 0.</param>
    public EdgeFit(double[] points)
    {
        _points = points;
        _tree = new(points);
    }

    /// <summary>The curve of greatest likelihood.</summary>
    /// <param name="spacing">Of the points, mm: one point stands for its square.</param>
    /// <param name="reach">How far off the curve may be at the start, mm.</param>
    /// <returns>Null when nothing lies behind the curve, or what does leaves it undetermined.</returns>
    public FoundEdge? Find(EdgeCurve start, double spacing, double reach)
    {
        var curve = start;
        for (var softness = Math.Max(spacing, reach); ; softness = Math.Max(Sharpest * spacing, softness / 2))
        {
            if (Sharpen(curve, spacing, softness) is not { } next)
            {
                return null;
            }

            curve = next;
            if (softness <= Sharpest * spacing)
            {
                return new(curve, Covered(curve, spacing));
            }
        }
    }

    /// <summary>Which places of a curve, one spacing apart, have points at a depth behind them.</summary>
    public bool[] Covered(EdgeCurve curve, double spacing, double depth = ProbeDepth) =>
        [.. Behind(curve, spacing, depth).Select(n => n >= LeastBehind)];

    /// <summary>Points a mm² behind the covered places; 0 when none is.</summary>
    public double Density(EdgeCurve curve, double spacing) => Behind(curve, spacing, ProbeDepth).Where(n => n >= LeastBehind)
        .DefaultIfEmpty(0).Average() / (Math.PI * Math.Pow(ProbeRadius * spacing, 2));

    /// <summary>How many points lie about the probe behind each place.</summary>
    private IEnumerable<int> Behind(EdgeCurve curve, double spacing, double depth)
    {
        var near = new List<int>();
        foreach (var p in curve.Places(spacing))
        {
            _tree.Within(new(p.X + (depth * spacing * p.InX), p.Y + (depth * spacing * p.InY), 0), ProbeRadius * spacing, near);
            yield return near.Count;
        }
    }

    /// <summary>Newton's method on the likelihood with one softness; the places that count are those covered at its start.</summary>
    private EdgeCurve? Sharpen(EdgeCurve curve, double spacing, double softness)
    {
        var covered = Covered(curve, spacing);
        var places = curve.Places(spacing).Where((_, i) => covered[i]).ToArray();
        if (places.Length < curve.Count)
        {
            return null;
        }

        var n = curve.Count;
        var gain = curve.Length / covered.Length / (spacing * spacing);
        var near = Near(curve, 2 * Deep * softness);
        var (likelihood, slope, matrix) = Evaluate(curve, near, places, gain, softness);
        for (var step = 0; step < MostSteps; step++)
        {
            var by = new double[n];
            if (!LinearSolve.Cholesky(matrix, slope, by))
            {
                return null;
            }

            // No step leaves the neighbourhood in which the straightened likelihood holds.
            var longest = by.Max(Math.Abs);
            var share = longest > softness ? softness / longest : 1;
            var improved = false;
            for (; share > Shortest && !improved; share /= 2)
            {
                var next = curve.Step([.. by.Select(b => share * b)]);
                var at = Evaluate(next, near, places, gain, softness);
                improved = at.Likelihood > likelihood;
                (curve, likelihood, slope, matrix) = improved
                    ? (next, at.Likelihood, at.Slope, at.Matrix) : (curve, likelihood, slope, matrix);
            }

            if (!improved || longest < Still * spacing)
            {
                break;
            }
        }

        return curve;
    }

    /// <summary>Points beyond the curve and up to a depth behind it, x and y by turns.</summary>
    private double[] Near(EdgeCurve curve, double depth)
    {
        Span<double> slope = stackalloc double[EdgeCurve.MostParameters];
        var near = new List<double>();
        for (var i = 0; i < _points.Length; i += 3)
        {
            if (curve.Depth(_points[i], _points[i + 1], slope) < depth)
            {
                near.Add(_points[i]);
                near.Add(_points[i + 1]);
            }
        }

        return [.. near];
    }

    /// <summary>The logarithm of the likelihood, its slope, and a positive matrix that stands for its curvature.</summary>
    /// <param name="gain">Points expected on a strip one mm wide in front of each place.</param>
    private (double Likelihood, double[] Slope, double[,] Matrix) Evaluate(
        EdgeCurve curve, double[] near, (double X, double Y, double InX, double InY)[] places, double gain, double softness)
    {
        var n = curve.Count;
        var (sum, slope, matrix) = (0.0, new double[n], new double[n, n]);
        Span<double> d = stackalloc double[EdgeCurve.MostParameters];
        for (var i = 0; i < near.Length; i += 2)
        {
            var depth = curve.Depth(near[i], near[i + 1], d) / softness;
            if (depth > Deep)
            {
                continue;
            }

            var (log, first, second) = Inside(depth);
            sum += log;
            for (var r = 0; r < n; r++)
            {
                slope[r] += first * d[r] / softness;
                for (var c = 0; c < n; c++)
                {
                    matrix[r, c] += second * d[r] * d[c] / (softness * softness);
                }
            }
        }

        foreach (var place in places)
        {
            sum -= gain * curve.Depth(place.X, place.Y, d);
            for (var r = 0; r < n; r++)
            {
                slope[r] -= gain * d[r];

                // Without points at hand the curve is held by what it is expected to meet within the softness.
                for (var c = 0; c < n; c++)
                {
                    matrix[r, c] += 0.01 * gain * d[r] * d[c] / softness;
                }
            }
        }

        return (sum, slope, matrix);
    }

    /// <summary>log((1 − ε)Φ(u) + ε), its derivative, and minus its second derivative where that is positive.</summary>
    private static (double Log, double First, double Second) Inside(double u)
    {
        var share = Astray + ((1 - Astray) * 0.5 * MathNet.Numerics.SpecialFunctions.Erfc(-u / Math.Sqrt(2)));
        var hazard = (1 - Astray) * Math.Exp(-u * u / 2) / Math.Sqrt(2 * Math.PI) / share;
        return (Math.Log(share), hazard, Math.Max(0, hazard * (hazard + u)));
    }
}

using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using MathNet.Numerics.Distributions;

namespace Bostel.Core.Features;

/// <summary>
/// How sure a feature associated by an extremal criterion is, which rests on a few extreme points: noise is drawn anew on the smoothed
/// surface and the feature associated again (parametric bootstrap: Efron and Tibshirani, An Introduction to the Bootstrap, 1993, 6.5).
/// </summary>
/// <param name="Motions">Independent motions of one standard deviation each.</param>
/// <param name="Position">Standard deviation of the place in its worst direction, mm.</param>
/// <param name="Direction">Of the direction, rad.</param>
/// <param name="Radius">Of the radius, mm.</param>
/// <param name="Bias">The mean motion by which noise takes it away.</param>
/// <param name="RadiusBias">What noise adds to the radius, mm.</param>
internal sealed record ExtremalUncertainty(
    IReadOnlyList<SmallMotion> Motions, double Position, double Direction, double Radius, SmallMotion Bias, double RadiusBias)
{
    private const int Trials = 16;

    /// <summary>So many points, spread evenly, stand for all: each for the outermost of those around it.</summary>
    private const int MostPoints = 1500;

    /// <summary>As for other extremes: most often nearly all of the hidden part is noise.</summary>
    private const double MostlyHidden = 0.75;

    /// <summary>The feature without what noise adds.</summary>
    public Shape Freed(Shape shape) => shape.Transformed(Bias.Times(-1)) switch
    {
        Cylinder3D c => c with { Radius = c.Radius - RadiusBias },
        Sphere3D s => s with { Radius = s.Radius - RadiusBias },
        var other => other,
    };

    /// <summary>What was taken off: of the diameter, or of the place of a plane; mm.</summary>
    public double TakenOff => RadiusBias != 0 ? 2 * RadiusBias : Bias.Shift.Length;

    /// <param name="fit">By an extremal criterion, to all points.</param>
    /// <returns>Null where noise cannot be told from form.</returns>
    public static ExtremalUncertainty? Of(string kind, FitResult fit, double[] points, double[] areas, Known known)
    {
        if (SurfaceNoise.Of(points, areas, fit.Residuals, new(points)) is not { } surface)
        {
            return null;
        }

        var n = points.Length / 3;
        var step = Math.Max(1, n / MostPoints);
        var kept = Enumerable.Range(0, (n + step - 1) / step).Select(i => i * step).ToArray();
        var normals = kept.Select(i => fit.Shape.Gradient(Vector3D.At(points, i))).ToArray();
        var feet = kept.Select((i, k) => Vector3D.At(points, i) - (fit.Residuals[i] * normals[k])).ToArray();
        var center = PointSums.Centroid(points);
        var reach = Math.Max(1, PointSums.Extent(points, center));
        var side = fit.Criterion switch
        {
            Criterion.MinimumZone => 0,
            Criterion.MaximumInscribed => -1,
            _ => Math.Sign(Outward(fit, known))
        };
        var start = known with { Start = fit.Shape };
        Shape Fitted(Func<int, double> height) => ExtremalFit.Fit(
            kind, fit.Criterion, [.. feet.SelectMany((p, k) => (p + (height(k) * normals[k])).ToArray())], start).Shape;
        List<Stray> Shaken(Func<int, double> form, double sigma, double independent)
        {
            var still = Fitted(form);
            var m = (long)Math.Clamp(independent, 1, kept.Length);
            var each = Math.Max(1, independent / m);
            return [.. Enumerable.Range(0, Trials).AsParallel().AsOrdered().Select(trial =>
            {
                var draws = new SeededNoise(trial);
                return Stray.Of(
                    still, Fitted(k => form(k) + (sigma * Outermost(draws.Normal(k * m / kept.Length), each, side))), center, reach);
            })];
        }

        // The smoothed form holds some noise of its own, whose part of the extremes the draws on it do not show.
        var noise = surface.Noise;
        var onForm = Shaken(k => surface.Form[kept[k]], noise.Sigma, noise.Independent);
        var left = Shaken(_ => 0, noise.Sigma / Math.Sqrt(noise.Support), noise.Independent / noise.Support);
        return From(onForm, left, center, reach);
    }

    /// <summary>
    /// Of so many normal numbers the outermost on a side, drawn through one: the largest of g has the distribution Φᵍ.
    /// </summary>
    private static double Outermost(double normal, double g, int side) =>
        side == 0 || g <= 1 ? normal : side * Normal.InvCDF(0, 1, Math.Pow(Normal.CDF(0, 1, normal), 1 / g));

    /// <summary>Whether distances from the feature count outward as the contact does: a tangent plane's normal may point inward.</summary>
    private static double Outward(FitResult fit, Known known) =>
        fit.Shape is Plane3D p && known.Outward is { } outward ? p.Normal.Dot(outward) : 1;

    /// <summary>From one shape to another: turn times reach, shift of the place at a point, growth of the radius.</summary>
    private sealed record Stray(double[] Parts)
    {
        public static Stray Of(Shape from, Shape to, Vector3D at, double reach)
        {
            var turn = NominalFaceBuilder.DirectionOf(from) is { } d && NominalFaceBuilder.DirectionOf(to) is { } e
                ? reach * d.Cross(d.Dot(e) < 0 ? -e : e)
                : Vector3D.Zero;
            var shift = Place(to, at) - Place(from, at);
            var growth = (FeatureResult.RadiusOf(to) ?? 0) - (FeatureResult.RadiusOf(from) ?? 0);
            return new([turn.X, turn.Y, turn.Z, shift.X, shift.Y, shift.Z, growth]);
        }

        public static double[] Mean(List<Stray> all) => [.. Enumerable.Range(0, 7).Select(a => all.Average(s => s.Parts[a]))];
    }

    private static ExtremalUncertainty From(List<Stray> onForm, List<Stray> left, Vector3D center, double reach)
    {
        var (seen, hidden) = (Stray.Mean(onForm), Stray.Mean(left));
        var bias = seen.Zip(hidden, (a, b) => a + (MostlyHidden * b)).ToArray();
        var covariance = new double[7, 7];
        for (var a = 0; a < 7; a++)
        {
            for (var b = 0; b < 7; b++)
            {
                // The hidden part is uniform between nothing and all of it (GUM 4.3.7).
                covariance[a, b] = onForm.Average(s => (s.Parts[a] - seen[a]) * (s.Parts[b] - seen[b])) + (hidden[a] * hidden[b] / 12);
            }
        }

        var motion = new double[6, 6];
        for (var a = 0; a < 36; a++)
        {
            motion[a / 6, a % 6] = covariance[a / 6, a % 6];
        }

        var (values, vectors) = SymmetricEigen.Solve(motion);
        var motions = Enumerable.Range(0, 6).Where(e => values[e] > 1e-12 * values[^1]).Select(e =>
        {
            var sigma = Math.Sqrt(values[e]);
            Vector3D At(int from) => sigma * new Vector3D(vectors[from, e], vectors[from + 1, e], vectors[from + 2, e]);
            return new SmallMotion(At(0) / reach, At(3), center);
        }).ToList();
        return new(motions, Worst(covariance, 3), Worst(covariance, 0) / reach, Math.Sqrt(covariance[6, 6]),
            new(new Vector3D(bias[0], bias[1], bias[2]) / reach, new(bias[3], bias[4], bias[5]), center), bias[6]);
    }

    private static double Worst(double[,] covariance, int from)
    {
        double C(int r, int c) => covariance[from + r, from + c];
        return Math.Sqrt(Math.Max(0, SymmetricEigen.Solve3(C(0, 0), C(0, 1), C(0, 2), C(1, 1), C(1, 2), C(2, 2)).Values[^1]));
    }

    private static Vector3D Place(Shape shape, Vector3D at) => shape switch
    {
        Plane3D p => p.Project(at),
        Cylinder3D c => c.AxisLine.Project(at),
        Sphere3D s => s.Center,
        _ => at,
    };
}

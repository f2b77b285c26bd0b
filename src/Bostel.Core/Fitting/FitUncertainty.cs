using Bostel.Core.Geometry;
using Bostel.Core.Spatial;
using MathNet.Numerics.Distributions;

namespace Bostel.Core.Fitting;

/// <summary>
/// How sure a fitted feature is, from the scatter of its points, their geometry and the effective number of independent ones: the
/// covariance of the fit times (n − m)/(nₑ − m). Standard deviations; <see cref="CoverageFactor"/> is Student's t for 95.45 % at nₑ − m
/// degrees of freedom (GUM G.3), near 2 for many points. Neither the device's own length error nor a deviation of form longer than the
/// feature is part of it.
/// </summary>
public sealed record FitUncertainty(double EffectivePoints, double CoverageFactor, double Position, double Direction, double Radius)
{
    private const double Share = 0.9545;

    /// <param name="fit">A least-squares fit (other criteria have no covariance).</param>
    /// <param name="points">The points it was made from, 3·N coordinates.</param>
    /// <returns>Null for a fit without covariance.</returns>
    public static FitUncertainty? Of(FitResult fit, double[] points)
    {
        if (fit.Covariance is not { } covariance)
        {
            return null;
        }

        var (used, residuals) = WithoutRejected(fit, points);
        var effective = SpatialCorrelation.EffectiveCount(used, residuals, new PointTree(used), fit.Fitted);

        // As few independent points as parameters leave one degree of freedom at the least: the interval is then wide, and a number.
        var free = Math.Max(1, effective - fit.Fitted);
        var inflate = Math.Sqrt(Math.Max(1, (residuals.Length - fit.Fitted) / free));
        var parts = Parts(fit.Shape, covariance.GetLength(0));
        return new(
            effective,
            StudentT.InvCDF(0, 1, free, (1 + Share) / 2),
            inflate * Largest(covariance, parts.Position),
            inflate * Largest(covariance, parts.Direction),
            inflate * Largest(covariance, parts.Radius));
    }

    /// <summary>Expanded uncertainty of the diameter, mm.</summary>
    public double Diameter => 2 * CoverageFactor * Radius;

    private static (double[] Points, double[] Residuals) WithoutRejected(FitResult fit, double[] points)
    {
        if (fit.Rejected.Length == 0)
        {
            return (points, fit.Residuals);
        }

        var rejected = fit.Rejected.ToHashSet();
        var kept = Enumerable.Range(0, fit.Residuals.Length).Where(i => !rejected.Contains(i)).ToArray();
        return ([.. kept.SelectMany(i => points[(3 * i)..((3 * i) + 3)])], [.. kept.Select(i => fit.Residuals[i])]);
    }

    /// <summary>Which local parameters are position, direction and radius; see the models.</summary>
    private static (Range Position, Range Direction, Range Radius) Parts(Shape shape, int count) => shape switch
    {
        Plane3D => (..1, 1..3, ..0),
        Line3D => (..(count / 2), (count / 2).., ..0),
        Circle3D => (..2, ..0, 2..3),
        Sphere3D => (..3, ..0, 3..4),
        Cylinder3D => (..2, 2..4, 4..5),
        Cone3D => (..2, 2..4, ..0),
        Torus3D => (..3, 3..5, 6..7),
        Slot3D => (..2, 2..3, 4..5),
        _ => (..0, ..0, ..0),
    };

    /// <summary>Standard deviation in the worst direction of a block of parameters: the root of its largest eigenvalue.</summary>
    private static double Largest(double[,] covariance, Range range)
    {
        var (from, count) = range.GetOffsetAndLength(covariance.GetLength(0));
        if (count == 0)
        {
            return 0;
        }

        var block = new double[count, count];
        for (var r = 0; r < count; r++)
        {
            for (var c = 0; c < count; c++)
            {
                block[r, c] = covariance[from + r, from + c];
            }
        }

        return Math.Sqrt(Math.Max(0, SymmetricEigen.Solve(block).Values[^1]));
    }
}

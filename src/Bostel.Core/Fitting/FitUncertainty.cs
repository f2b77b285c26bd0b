using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Fitting;

/// <summary>
/// How sure a fitted feature is, from the scatter of its points, their geometry and the effective number of independent ones: the
/// covariance of the fit times (n − m)/(nₑ − m). Standard deviations; <see cref="CoverageFactor"/> is Student's t for 95.45 % at nₑ
/// − m degrees of freedom (GUM G.3), near 2 for many points. Neither the device's own length error nor a deviation of form longer than
/// the feature is part of it.
/// </summary>
public sealed record FitUncertainty(double EffectivePoints, double CoverageFactor, double Position, double Direction, double Radius)
{
    /// <summary>
    /// Independent motions of one standard deviation each, by which the feature may be off: the columns of a root of the covariance of its
    /// place and direction, correlations included.
    /// </summary>
    public IReadOnlyList<SmallMotion> Motions { get; init; } = [];

    /// <summary>The feature off by each independent error of one standard deviation, sizes included: their correlations are kept.</summary>
    public IReadOnlyList<Shape> Shapes { get; init; } = [];

    /// <summary>Degrees of freedom: effective points less the parameters fitted to them, at least one.</summary>
    public double Freedom { get; init; } = 1;

    /// <param name="fit">A least-squares fit (other criteria have no covariance).</param>
    /// <param name="points">The points it was made from, 3·N coordinates.</param>
    /// <param name="weights">
    /// The weights of the fit, when they stand for surface and not for accuracy: so many equal points are worth (Σw)²/Σw² (Kish, Survey
    /// Sampling, 1965, 11.7).
    /// </param>
    /// <returns>Null for a fit without covariance.</returns>
    public static FitUncertainty? Of(FitResult fit, double[] points, double[]? weights = null)
    {
        if (fit.Covariance is not { } covariance)
        {
            return null;
        }

        var (used, residuals) = WithoutRejected(fit, points);
        var effective = SpatialCorrelation.EffectiveCount(used, residuals, new PointTree(used), fit.Fitted);
        effective *= weights is null ? 1 : Math.Pow(weights.Sum(), 2) / (weights.Sum(w => w * w) * weights.Count(w => w > 0));

        // As few independent points as parameters leave one degree of freedom at the least: the interval is then wide, and a number.
        var free = Math.Max(1, effective - fit.Fitted);
        var inflate = Math.Sqrt(Math.Max(1, (residuals.Length - fit.Fitted) / free));
        var parts = Parts(fit.Shape, covariance.GetLength(0));
        return new(
            effective,
            Fitting.CoverageFactor.Of(free),
            inflate * Largest(covariance, parts.Position),
            inflate * Largest(covariance, parts.Direction),
            inflate * Largest(covariance, parts.Radius))
        {
            Motions = Roots(fit, covariance, inflate),
            Shapes = ShapeVariations.Of(fit, covariance, inflate),
            Freedom = free,
        };
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

    private static List<SmallMotion> Roots(FitResult fit, double[,] covariance, double inflate)
    {
        var moving = Motion(fit.Shape).ToList();
        var block = new double[moving.Count, moving.Count];
        for (var r = 0; r < moving.Count; r++)
        {
            for (var c = 0; c < moving.Count; c++)
            {
                block[r, c] = covariance[moving[r].Parameter, moving[c].Parameter];
            }
        }

        var (values, vectors) = SymmetricEigen.Solve(block);
        var roots = new List<SmallMotion>();
        for (var e = 0; e < values.Length; e++)
        {
            var (turn, shift) = (Vector3D.Zero, Vector3D.Zero);
            for (var r = 0; r < moving.Count; r++)
            {
                (turn, shift) = (turn + (vectors[r, e] * moving[r].Turn), shift + (vectors[r, e] * moving[r].Shift));
            }

            var sigma = inflate * Math.Sqrt(Math.Max(0, values[e]));
            roots.Add(new SmallMotion(sigma * turn, sigma * shift, Vector3D.Zero).At(fit.Frame));
        }

        return roots;
    }

    /// <summary>Which local parameters move the feature, and how: tilts turn the z axis toward x and y.</summary>
    private static IEnumerable<(int Parameter, Vector3D Turn, Vector3D Shift)> Motion(Shape shape)
    {
        Vector3D[] shifts = shape switch
        {
            Plane3D => [Vector3D.UnitZ],
            Cylinder3D or Cone3D or Circle3D => [Vector3D.UnitX, Vector3D.UnitY],
            Sphere3D or Torus3D => [Vector3D.UnitX, Vector3D.UnitY, Vector3D.UnitZ],
            _ => [],
        };
        Vector3D[] turns = shape is Plane3D or Cylinder3D or Cone3D or Torus3D ? [Vector3D.UnitY, -Vector3D.UnitX] : [];
        return shifts.Select((s, i) => (i, Vector3D.Zero, s)).Concat(turns.Select((t, i) => (shifts.Length + i, t, Vector3D.Zero)));
    }

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

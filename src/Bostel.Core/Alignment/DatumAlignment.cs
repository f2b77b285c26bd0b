using Bostel.Core.Geometry;

namespace Bostel.Core.Alignment;

/// <summary>
/// A measured feature and the nominal one it is to lie on. Planes count as planes, spheres as points, everything with an axis as that axis.
/// Measured and nominal directions point the same way. <see cref="At"/> is where a plane or axis was measured (the middle of its points).
/// </summary>
public sealed record DatumPair(Shape Measured, Shape Nominal, Vector3D At)
{
    /// <summary>
    /// Standard deviation of the place over that of the direction, mm: a short feature's direction weighs little. Null: alike.
    /// </summary>
    public double? Lever { get; init; }

    /// <summary>Against the others of the same datum, by how sure their places are.</summary>
    public double Weight { get; init; } = 1;
}

/// <summary>One datum: a feature, or several used together.</summary>
public sealed record AlignmentDatum(string Name, IReadOnlyList<DatumPair> Pairs);

/// <summary>Where datums bring a part, what each of them fixed, and what is still free and keeps its start value.</summary>
public sealed record DatumPose(
    RigidTransform Transform, IReadOnlyList<AlignmentStep> Steps, int FreeDegrees, string Free, IReadOnlyList<FreeMotion> Motions);

/// <summary>
/// Alignment by datums after ISO 5459: they are applied in order, each as far as those before it leave it free (its situation feature,
/// plane, line or point, by least squares). Any sequence is allowed: plane–line–point, plane–axis–axis, three planes, axis–plane–point,
/// patterns.
/// </summary>
public static class DatumAlignment
{
    private const int MostSteps = 60;

    /// <param name="datums">In order of precedence.</param>
    /// <param name="start">
    /// Scan to nominal; motions left free keep it. Null, or farther than 20° from the datums' directions: found from the datums themselves.
    /// </param>
    /// <exception cref="BadInputException">No datums, or a feature that cannot be one.</exception>
    public static DatumPose Solve(IReadOnlyList<AlignmentDatum> datums, RigidTransform? start = null)
    {
        if (datums.Count == 0 || datums.Any(d => d.Pairs.Count == 0))
        {
            throw new BadInputException("datums: at least one datum with a feature is needed.");
        }

        var pairs = datums.SelectMany(d => d.Pairs).ToList();
        var places = pairs.Select(p => NominalPlace(p.Nominal)).ToList();
        var center = places.Aggregate(Vector3D.Zero, (s, p) => s + (p / places.Count));
        var lever = Math.Max(1, places.Max(p => Vector3D.Distance(p, center)));
        var pose = start is { } given && pairs.All(p => IsNear(p, given)) ? given : DatumStart.For(pairs);
        var free = new FreeMotions(center, lever);
        var steps = new List<AlignmentStep>();
        foreach (var datum in datums)
        {
            var best = double.PositiveInfinity;
            var weights = Weights(datum, lever);
            for (var i = 0; i < MostSteps && best > 1e-12 * lever; i++)
            {
                var (motion, length, _) = free.Step(Rows(datum, pose, free, lever), weights);
                pose = motion.After(pose).Orthonormalized();

                // Steps shrink fast near the end; when they stop shrinking, rounding is all that is left.
                if (length >= best && length < 1e-9 * lever)
                {
                    break;
                }

                best = Math.Min(best, length);
            }

            var rows = Rows(datum, pose, free, lever);
            var taken = free.Fix(rows);
            var left = Math.Sqrt(datum.Pairs.SelectMany(p => Place(p, pose, free)).Average(r => r.Residual * r.Residual));
            var says = taken == 0
                ? $"{datum.Name} adds nothing: all it could fix was fixed before it"
                : $"{datum.Name} fixes {taken} of six degrees of freedom; free: {free.Describe()}";
            steps.Add(new(datum.Name, taken, free.Count, left, says));
        }

        return new(pose, steps, free.Count, free.Describe(), free.All);
    }

    private static bool IsNear(DatumPair pair, RigidTransform pose) =>
        DirectionOf(pair.Measured) is not { } measured
            || pose.Rotate(measured).AngleTo(DirectionOf(pair.Nominal)!.Value) < 20 * Math.PI / 180;

    /// <summary>Residuals of direction (times the lever) and place, with how they grow with each motion.</summary>
    private static List<(double[] Row, double Residual)> Rows(AlignmentDatum datum, RigidTransform pose, FreeMotions free, double lever)
    {
        var rows = new List<(double[] Row, double Residual)>();
        foreach (var pair in datum.Pairs)
        {
            if (DirectionOf(pair.Measured) is { } measured && DirectionOf(pair.Nominal) is { } nominal)
            {
                var u = pose.Rotate(measured);
                var (x, y) = (nominal.Perpendicular(), nominal.Cross(nominal.Perpendicular()));
                foreach (var e in (Vector3D[])[x, y])
                {
                    // (u × n)·e = u·(n × e): zero when u lies along n.
                    rows.Add((FreeMotions.Turn(u, nominal.Cross(e)), lever * u.Dot(nominal.Cross(e))));
                }
            }

            rows.AddRange(Place(pair, pose, free));
        }

        return rows;
    }

    /// <summary>Weights of the rows: the inverse of how sure each direction and place is, as far as the features tell.</summary>
    private static List<double> Weights(AlignmentDatum datum, double lever)
    {
        var weights = new List<double>();
        foreach (var pair in datum.Pairs)
        {
            if (DirectionOf(pair.Measured) is not null && DirectionOf(pair.Nominal) is not null)
            {
                var direction = pair.Weight * Math.Min(lever, pair.Lever ?? lever) / lever;
                weights.AddRange([direction, direction]);
            }

            weights.AddRange(Enumerable.Repeat(pair.Weight, pair.Nominal is Plane3D ? 1 : pair.Nominal is Sphere3D ? 3 : 2));
        }

        return weights;
    }

    private static List<(double[] Row, double Residual)> Place(DatumPair pair, RigidTransform pose, FreeMotions free)
    {
        var p = pose.Apply(MeasuredPlace(pair));
        var gap = p - NominalPlace(pair.Nominal);
        Vector3D[] across = pair.Nominal switch
        {
            Plane3D s => [s.Normal],
            Sphere3D => [Vector3D.UnitX, Vector3D.UnitY, Vector3D.UnitZ],
            var s => [DirectionOf(s)!.Value.Perpendicular(), DirectionOf(s)!.Value.Cross(DirectionOf(s)!.Value.Perpendicular())],
        };
        return [.. across.Select(e => (free.Shift(p, e), gap.Dot(e)))];
    }

    internal static Vector3D? DirectionOf(Shape shape) => shape switch
    {
        Plane3D s => s.Normal,
        Line3D s => s.Direction,
        Circle3D s => s.Normal,
        Cylinder3D s => s.Axis,
        Cone3D s => s.Axis,
        Torus3D s => s.Axis,
        Sphere3D => null,
        _ => throw new BadInputException($"A {shape.Kind} cannot serve as a datum."),
    };

    internal static Vector3D NominalPlace(Shape shape) => shape switch
    {
        Plane3D s => s.Point,
        Line3D s => s.Point,
        Circle3D s => s.Center,
        Cylinder3D s => s.Point,
        Cone3D s => s.Apex,
        Torus3D s => s.Center,
        Sphere3D s => s.Center,
        _ => throw new BadInputException($"A {shape.Kind} cannot serve as a datum."),
    };

    /// <summary>The point of the measured feature nearest to where it was measured.</summary>
    internal static Vector3D MeasuredPlace(DatumPair pair) => pair.Measured switch
    {
        Plane3D s => s.Project(pair.At),
        Sphere3D s => s.Center,
        var s => new Line3D(NominalPlace(s), DirectionOf(s)!.Value).Project(pair.At),
    };
}

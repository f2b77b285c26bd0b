using Bostel.Core.Geometry;

namespace Bostel.Core.Alignment;

/// <summary>
/// A measured feature and the nominal one it is to lie on. Planes count as planes, spheres as points, everything with an axis as that axis.
/// Measured and nominal directions point the same way. <see cref="At"/> is where a plane or axis was measured (the middle of its points).
/// </summary>
public sealed record DatumPair(Shape Measured, Shape Nominal, Vector3D At)
{
    /// <summary>
    /// Independent motions of one standard deviation each by which the measured feature may be off: within a datum, directions and places
    /// weigh by them. None: all weigh alike.
    /// </summary>
    public IReadOnlyList<SmallMotion> Errors { get; init; } = [];
}

/// <summary>One datum: a feature, or several used together.</summary>
public sealed record AlignmentDatum(string Name, IReadOnlyList<DatumPair> Pairs);

/// <summary>Where datums bring a part, what each of them fixed, and what is still free and keeps its start value.</summary>
public sealed record DatumPose(
    RigidTransform Transform, IReadOnlyList<AlignmentStep> Steps, int FreeDegrees, string Free, IReadOnlyList<SmallMotion> Motions);

/// <summary>
/// Alignment by datums after ISO 5459: they are applied in order, each as far as those before it leave it free (its situation feature,
/// plane, line or point, by least squares). Any sequence is allowed: plane–line–point, plane–axis–axis, three planes,
/// axis–plane–point, patterns.
/// </summary>
public static class DatumAlignment
{
    private const int MostSteps = 60;

    /// <param name="datums">In order of precedence.</param>
    /// <param name="start">
    /// Scan to nominal; motions left free keep it. Null, or farther than 20° from the datums' directions: found from the datums
    /// themselves.
    /// </param>
    /// <exception cref="BadInputException">No datums, or a feature that cannot be one.</exception>
    public static DatumPose Solve(IReadOnlyList<AlignmentDatum> datums, RigidTransform? start = null)
    {
        if (datums.Count == 0 || datums.Any(d => d.Pairs.Count == 0))
        {
            throw new BadInputException("datums: at least one datum with a feature is needed.");
        }

        var pairs = datums.SelectMany(d => d.Pairs).ToList();
        var pose = start is { } given && pairs.All(p => IsNear(p, given)) ? given : DatumStart.For(pairs);

        // About where they were measured: seen from afar a shift of a single feature would look like a turn.
        var places = pairs.Select(p => pose.Apply(MeasuredPlace(p))).ToList();
        var center = places.Aggregate(Vector3D.Zero, (s, p) => s + (p / places.Count));
        var lever = Math.Max(1, places.Max(p => Vector3D.Distance(p, center)));
        var free = new FreeMotions(center, lever);
        var steps = new List<AlignmentStep>();
        foreach (var datum in datums)
        {
            var best = double.PositiveInfinity;
            for (var i = 0; i < MostSteps && best > 1e-12 * lever; i++)
            {
                var perPair = datum.Pairs.Select(p => Rows(p, pose, free, lever)).ToList();
                var weighed = datum.Pairs.Zip(perPair, (p, r) => Weighed(r, [.. p.Errors.Select(e => e.At(pose))], free)).ToList();
                var all = weighed.All(w => w is not null) ? weighed.SelectMany(w => w!).ToList() : null;
                var (motion, length, _) = free.Step([.. perPair.SelectMany(r => r)], all);
                pose = motion.After(pose).Orthonormalized();

                // Steps shrink fast near the end; when they stop shrinking, rounding is all that is left.
                if (length >= best && length < 1e-9 * lever)
                {
                    break;
                }

                best = Math.Min(best, length);
            }

            var before = free.Named;
            var taken = free.Fix([.. datum.Pairs.SelectMany(p => Rows(p, pose, free, lever))]);
            var left = Math.Sqrt(datum.Pairs.SelectMany(p => Place(p, pose, free)).Average(r => r.Residual * r.Residual));
            var says = taken == 0
                ? $"{datum.Name} adds nothing: all it could fix was fixed before it"
                : $"{datum.Name} fixes {taken} of six degrees of freedom; free: {free.Describe()}";
            steps.Add(new(datum.Name, taken, free.Count, left, says) { Takes = [.. before.Except(free.Named)] });
        }

        return new(pose, steps, free.Count, free.Describe(), free.All);
    }

    private static bool IsNear(DatumPair pair, RigidTransform pose) =>
        DirectionOf(pair.Measured) is not { } measured
            || pose.Rotate(measured).AngleTo(DirectionOf(pair.Nominal)!.Value) < 20 * Math.PI / 180;

    /// <summary>Residuals of direction (times the lever) and place, with how they grow with each motion.</summary>
    private static List<(double[] Row, double Residual)> Rows(DatumPair pair, RigidTransform pose, FreeMotions free, double lever)
    {
        var rows = new List<(double[] Row, double Residual)>();
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

        if (pair is { Measured: Slot3D lies, Nominal: Slot3D wanted })
        {
            // Its length, too, has a direction: it holds the turn about the normal.
            var (u, across) = (pose.Rotate(lies.Direction), wanted.Normal.Cross(wanted.Direction));
            rows.Add((FreeMotions.Turn(u, across), lever * u.Dot(across)));
        }

        rows.AddRange(Place(pair, pose, free));
        return rows;
    }

    /// <summary>
    /// The rows of a pair as independent ones of standard deviation one: multiplied by the inverse of the Cholesky factor of their
    /// covariance (generalised least squares, Aitken 1936). This is the joint fit of all features of the datum to their points, to first
    /// order.
    /// </summary>
    /// <returns>Null when the errors do not tell how sure every row is.</returns>
    private static List<(double[] Row, double Residual)>? Weighed(
        List<(double[] Row, double Residual)> rows, IReadOnlyList<SmallMotion> errors, FreeMotions free)
    {
        var n = rows.Count;
        var covariance = new double[n, n];
        foreach (var error in errors)
        {
            var felt = rows.Select(r => free.Felt(r.Row, error)).ToArray();
            for (var a = 0; a < n; a++)
            {
                for (var b = 0; b < n; b++)
                {
                    covariance[a, b] += felt[a] * felt[b];
                }
            }
        }

        if (LinearSolve.CholeskyFactor(covariance) is not { } factor)
        {
            return null;
        }

        var weighed = new List<(double[] Row, double Residual)>(n);
        for (var i = 0; i < n; i++)
        {
            var (row, residual) = ((double[])rows[i].Row.Clone(), rows[i].Residual);
            for (var j = 0; j < i; j++)
            {
                residual -= factor[i, j] * weighed[j].Residual;
                for (var k = 0; k < row.Length; k++)
                {
                    row[k] -= factor[i, j] * weighed[j].Row[k];
                }
            }

            weighed.Add(([.. row.Select(v => v / factor[i, i])], residual / factor[i, i]));
        }

        return weighed;
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
        Slot3D s => s.Normal,
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
        Slot3D s => s.Center,
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

using System.Text.Json.Serialization;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>
/// Places at equal steps, fitted as a whole: where they lie, and how large the step is, follow by least squares. How far each place lies
/// from the ideal pattern of the nominal's step is told beside it (<see cref="PatternReading"/>).
/// </summary>
public abstract record PatternPlan(string Id, string Name) : ConstructionPlan(Id, Name)
{
    /// <summary>How far from a whole step a place may lie, in steps, and still be taken for it.</summary>
    private const double Slack = 0.25;

    /// <summary>The same pattern with the step at which places stand, mm or degrees.</summary>
    internal abstract PatternPlan SteppedAs(IReadOnlyList<Situated> from);

    /// <summary>The places as a pattern, or why they are none.</summary>
    internal abstract (PlacedPattern? Pattern, string? Why) Place(IReadOnlyList<Situated> from);

    private protected override Made? Follow(IReadOnlyList<Situated> from)
    {
        if (Situated.Places(from) is not { Length: >= 3 })
        {
            return null;
        }

        var (pattern, why) = Place(from);
        return pattern is null ? Made.Failed(why!) : pattern.Shape;
    }

    /// <summary>The whole steps at which places stand, or why they stand at none.</summary>
    private protected (int[] Steps, string? Why) StepsOf(double[] along, double step)
    {
        var steps = along.Select(a => (int)Math.Round((a - along[0]) / step)).ToArray();
        var off = Array.FindIndex(along, a => Math.Abs(((a - along[0]) / step) - Math.Round((a - along[0]) / step)) > Slack);
        return off >= 0 ? (steps, $"{Name}: its place {off + 1} lies between two steps of the pattern.")
            : steps.Distinct().Count() < steps.Length ? (steps, $"{Name}: two of its places lie at the same step of the pattern.")
            : (steps, null);
    }

    /// <summary>The step that places at whole steps share: the mean over all, counted by the smallest gap.</summary>
    private protected static double SharedStep(IEnumerable<double> along)
    {
        var sorted = along.Order().ToArray();
        var gaps = sorted.Skip(1).Zip(sorted, (b, a) => b - a).ToArray();
        return gaps.Sum() / Math.Max(1, gaps.Sum(g => Math.Round(g / gaps.Min())));
    }

    /// <summary>Slope of the straight line through values at whole steps, by least squares.</summary>
    private protected static double Slope(int[] steps, double[] values)
    {
        var (k, v) = (steps.Average(), values.Average());
        return steps.Zip(values, (s, x) => (s - k) * (x - v)).Sum() / steps.Sum(s => (s - k) * (s - k));
    }
}

/// <summary>Places at whole steps of a pattern.</summary>
/// <param name="Shape">The circle of a ring, the line of a row.</param>
/// <param name="Step">The step that fits them best: mm of a row, rad of a ring.</param>
/// <param name="Along">Where each lies along the row or ring, mm, from the pattern's own beginning.</param>
/// <param name="Across">How far each lies from the row's line, or from the ring's centre; mm.</param>
/// <param name="Steps">At which step each stands.</param>
/// <param name="Radius">Of the ring, mm; 1 for a row.</param>
internal sealed record PlacedPattern(Shape Shape, double Step, double[] Along, double[] Across, int[] Steps, double Radius);

/// <summary>Places at equal angles about a centre; the circle through them, its centre and phase by least squares.</summary>
public sealed record PolarPatternPlan(string Id, string Name) : PatternPlan(Id, Name)
{
    /// <summary>The angle from one place to the next, degrees.</summary>
    public double StepDegrees { get; init; } = 90;

    [JsonIgnore]
    public override string What => FormattableString.Invariant($"pattern of {From.Length} places at steps of {StepDegrees:0.####}°");

    protected override string Takes => "three or more points or centres, or three or more axes and the plane they pierce";

    internal override IEnumerable<string> Faults() =>
        StepDegrees is > 0 and <= 120 ? base.Faults() : ["stepDegrees: must be above 0 and at most 120."];

    internal override PatternPlan SteppedAs(IReadOnlyList<Situated> from)
    {
        if (Ring(from).Frame is not { } f)
        {
            return this;
        }

        // The gap that closes the ring counts as the others do.
        var angles = f.Places.Select(f.Angle).Order().ToArray();
        var step = SharedStep([.. angles, angles[0] + (2 * Math.PI)]) * 180 / Math.PI;
        return this with { StepDegrees = Math.Round(step, 6) };
    }

    internal override (PlacedPattern? Pattern, string? Why) Place(IReadOnlyList<Situated> from)
    {
        var step = StepDegrees * Math.PI / 180;
        var (ring, why) = Ring(from);
        if (ring is null)
        {
            return (null, why);
        }

        var (steps, off) = StepsOf(ring.Unwrapped(), step);
        if (off is not null)
        {
            return (null, off);
        }

        var (circle, phase) = ring.Fitted(steps, step);
        var fitted = ring with { Center = circle.Center };
        var angles = fitted.Places.Select((p, i) => (steps[i] * step) + Turn(fitted.Angle(p) - phase - (steps[i] * step))).ToArray();
        return (new(circle, Slope(steps, angles), [.. angles.Select(a => a * circle.Radius)],
            [.. fitted.Places.Select(p => fitted.Flat(p).Length)], steps, circle.Radius), null);
    }

    private static double Turn(double angle) => Math.IEEERemainder(angle, 2 * Math.PI);

    private (RingFrame? Frame, string? Why) Ring(IReadOnlyList<Situated> from)
    {
        if (Situated.Places(from) is not { Length: >= 3 } places)
        {
            return (null, $"{Name}: a pattern needs {Takes}.");
        }

        var (circle, why) = CircleThroughPlan.Through(places, from.FirstOrDefault(f => f.Plane is not null)?.Plane);
        if (circle is null)
        {
            return (null, $"{Name}: {why}");
        }

        var normal = circle.Normal;
        var first = places[0] - circle.Center;
        return (new(circle.Center, normal, (first - (first.Dot(normal) * normal)).Normalized(), places), null);
    }

    /// <summary>Places about a centre, and the direction from which their angles count.</summary>
    private sealed record RingFrame(Vector3D Center, Vector3D Normal, Vector3D First, Vector3D[] Places)
    {
        public Vector3D Flat(Vector3D p) => p - Center - ((p - Center).Dot(Normal) * Normal);

        public double Angle(Vector3D p) => Math.Atan2(Flat(p).Dot(Normal.Cross(First)), Flat(p).Dot(First));

        /// <summary>Angles from the first place on, each within a turn ahead of it.</summary>
        public double[] Unwrapped()
        {
            // What lies a hair behind the first place is no turn ahead of it.
            const double Hair = 1e-3;
            return [.. Places.Select(p => Angle(p) - Angle(Places[0])).Select(a => a < -Hair ? a + (2 * Math.PI) : a)];
        }

        /// <summary>
        /// The regular ring nearest to the places, in its plane as complex numbers: p ≈ c + z·exp(i·k·step) is linear in centre c and
        /// in z, whose size is the radius and whose angle is the phase.
        /// </summary>
        public (Circle3D Circle, double Phase) Fitted(int[] steps, double step)
        {
            var y = Normal.Cross(First);
            var p = Places.Select(q => new System.Numerics.Complex(Flat(q).Dot(First), Flat(q).Dot(y))).ToArray();
            var u = steps.Select(k => System.Numerics.Complex.FromPolarCoordinates(1, k * step)).ToArray();
            var (meanP, meanU) = (p.Aggregate((a, b) => a + b) / p.Length, u.Aggregate((a, b) => a + b) / u.Length);
            var (top, bottom) = (System.Numerics.Complex.Zero, 0.0);
            for (var i = 0; i < p.Length; i++)
            {
                var d = u[i] - meanU;
                top += System.Numerics.Complex.Conjugate(d) * (p[i] - meanP);
                bottom += (d.Real * d.Real) + (d.Imaginary * d.Imaginary);
            }

            var z = top / bottom;
            var c = meanP - (z * meanU);
            var height = Places.Sum(q => (q - Center).Dot(Normal)) / Places.Length;
            return (new(Center + (c.Real * First) + (c.Imaginary * y) + (height * Normal), Normal, z.Magnitude), z.Phase);
        }
    }
}

/// <summary>Places at equal steps along a line; the line through them and the step by least squares.</summary>
public sealed record LinearPatternPlan(string Id, string Name) : PatternPlan(Id, Name)
{
    /// <summary>From one place to the next, mm.</summary>
    public double Step { get; init; } = 10;

    [JsonIgnore]
    public override string What => FormattableString.Invariant($"row of {From.Length} places at steps of {Step:0.####} mm");

    protected override string Takes => "three or more points or centres in a row, or three or more axes and the plane they pierce";

    internal override IEnumerable<string> Faults() =>
        Step > 0 && double.IsFinite(Step) ? base.Faults() : ["step: must be above 0 mm."];

    internal override PatternPlan SteppedAs(IReadOnlyList<Situated> from) =>
        Row(from) is { } row ? this with { Step = Math.Round(SharedStep(row.Along), 6) } : this;

    internal override (PlacedPattern? Pattern, string? Why) Place(IReadOnlyList<Situated> from)
    {
        if (Row(from) is not { } row)
        {
            return (null, $"{Name}: its places do not stand in a row.");
        }

        var (steps, off) = StepsOf(row.Along, Step);
        if (off is not null)
        {
            return (null, off);
        }

        var line = Fitted(row.Places, steps);
        var along = row.Places.Select(p => (p - line.Point).Dot(line.Direction)).ToArray();
        return (new(line, Slope(steps, along), along, [.. row.Places.Select(line.Distance)], steps, 1), null);
    }

    /// <summary>p ≈ c + k·v is linear in c and v: the direction is that of the slope.</summary>
    private static Line3D Fitted(Vector3D[] places, int[] steps)
    {
        double[] At(int axis) => [.. places.Select(p => p[axis])];
        var v = new Vector3D(Slope(steps, At(0)), Slope(steps, At(1)), Slope(steps, At(2)));
        return new(places.Aggregate(Vector3D.Zero, (s, p) => s + (p / places.Length)), v.Normalized());
    }

    /// <summary>The places along the line from the first to the farthest; null when they do not stand in a row.</summary>
    private static (Vector3D[] Places, double[] Along)? Row(IReadOnlyList<Situated> from)
    {
        if (Situated.Places(from) is not { Length: >= 3 } places || LeastSquares.Line([.. places.SelectMany(p => p.ToArray())]).Fit is not
            { Shape: Line3D line } fit)
        {
            return null;
        }

        var along = places.Select(p => (p - line.Point).Dot(line.Direction)).ToArray();
        return fit.Residuals.Max() > Situated.Parallel * (along.Max() - along.Min()) ? null : (places, along);
    }
}

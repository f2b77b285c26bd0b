using Bostel.Core.Geometry;

namespace Bostel.Core.Features;

/// <summary>
/// The edge of a sheet as a curve in the sheet's own plane, mm: on one side of it is material, on the other nothing. A frame lays the
/// plane into space: its z axis is the normal of the sheet's side.
/// </summary>
internal abstract record EdgeCurve
{
    /// <summary>The most parameters that a curve has.</summary>
    public const int MostParameters = 5;

    public abstract int Count { get; }

    /// <summary>How deep a place lies in the material; negative: beyond the edge.</summary>
    /// <param name="slope">Receives how it changes with each parameter; <see cref="Count"/> numbers.</param>
    public abstract double Depth(double x, double y, Span<double> slope);

    /// <summary>The curve with its parameters changed by so much.</summary>
    public abstract EdgeCurve Step(ReadOnlySpan<double> by);

    /// <summary>By how much the parameters differ from those of a curve of the same kind.</summary>
    public abstract double[] Minus(EdgeCurve other);

    /// <summary>
    /// Another edge of the same form, cut out of the material: everywhere at least <paramref name="by"/> − <paramref name="aside"/>
    /// behind this one.
    /// </summary>
    /// <param name="by">How far the edge is moved into the material.</param>
    /// <param name="aside">How far it is then shifted, or turned, within the sheet.</param>
    /// <param name="direction">In which direction, rad.</param>
    public abstract EdgeCurve Cut(double by, double aside, double direction);

    /// <summary>Places on the curve, evenly, each with the direction into the material.</summary>
    public abstract IEnumerable<(double X, double Y, double InX, double InY)> Places(double spacing);

    public abstract double Length { get; }

    /// <summary>Whether a place lies beside the curve, and not beyond its ends.</summary>
    public virtual bool Beside(double x, double y) => true;

    public abstract Shape ToShape(RigidTransform frame);
}

/// <summary>A round edge: of a hole, or of a disc.</summary>
internal sealed record RoundEdge(double X, double Y, double Radius, bool IsHole) : EdgeCurve
{
    private double Side => IsHole ? 1 : -1;

    public override int Count => 3;

    public override double Length => 2 * Math.PI * Radius;

    public override double Depth(double x, double y, Span<double> slope)
    {
        var (dx, dy) = (x - X, y - Y);
        var distance = Math.Sqrt((dx * dx) + (dy * dy));
        if (distance > 0)
        {
            (slope[0], slope[1]) = (-Side * dx / distance, -Side * dy / distance);
        }
        else
        {
            (slope[0], slope[1]) = (0, 0);
        }

        slope[2] = -Side;
        return Side * (distance - Radius);
    }

    public override EdgeCurve Step(ReadOnlySpan<double> by) => this with { X = X + by[0], Y = Y + by[1], Radius = Radius + by[2] };

    public override double[] Minus(EdgeCurve other) => other is RoundEdge o ? [X - o.X, Y - o.Y, Radius - o.Radius] : throw Unlike(other);

    public override EdgeCurve Cut(double by, double aside, double direction) => this with
    {
        X = X + (aside * Math.Cos(direction)),
        Y = Y + (aside * Math.Sin(direction)),
        Radius = Radius + (Side * by),
    };

    public override IEnumerable<(double X, double Y, double InX, double InY)> Places(double spacing)
    {
        var count = Math.Max(8, (int)Math.Round(Length / spacing));
        return Enumerable.Range(0, count).Select(k => 2 * Math.PI * k / count)
            .Select(a => (X + (Radius * Math.Cos(a)), Y + (Radius * Math.Sin(a)), Side * Math.Cos(a), Side * Math.Sin(a)));
    }

    public override Shape ToShape(RigidTransform frame) =>
        new Circle3D(frame.Apply(new(X, Y, 0)), frame.Rotate(Vector3D.UnitZ), Radius);

    private static ArgumentException Unlike(EdgeCurve other) => new($"a round edge and a {other.GetType().Name}");
}

/// <summary>
/// A straight edge along x, between two places of it; the material lies towards +y. <see cref="Offset"/> is its y at x = 0.
/// </summary>
internal sealed record StraightEdge(double Offset, double Angle, double From, double To) : EdgeCurve
{
    public override int Count => 2;

    public override double Length => To - From;

    public override double Depth(double x, double y, Span<double> slope)
    {
        var (sin, cos) = Math.SinCos(Angle);
        (slope[0], slope[1]) = (-cos, (-cos * x) - (sin * (y - Offset)));
        return (cos * (y - Offset)) - (sin * x);
    }

    public override bool Beside(double x, double y) => x >= From && x <= To;

    public override EdgeCurve Step(ReadOnlySpan<double> by) => this with { Offset = Offset + by[0], Angle = Angle + by[1] };

    public override double[] Minus(EdgeCurve other) =>
        other is StraightEdge o ? [Offset - o.Offset, Angle - o.Angle] : throw new ArgumentException("two kinds of edge");

    public override EdgeCurve Cut(double by, double aside, double direction) => this with
    {
        Offset = Offset + by,
        Angle = Angle + (aside * Math.Cos(direction) / Math.Max(Math.Abs(From), Math.Abs(To))),
    };

    public override IEnumerable<(double X, double Y, double InX, double InY)> Places(double spacing)
    {
        var count = Math.Max(4, (int)Math.Round(Length / spacing));
        var (sin, cos) = Math.SinCos(Angle);
        return Enumerable.Range(0, count).Select(k => From + (Length * (k + 0.5) / count))
            .Select(x => (x, Offset + (x * sin / cos), -sin, cos));
    }

    public override Shape ToShape(RigidTransform frame) => new Line3D(
        frame.Apply(new((From + To) / 2, Offset + ((From + To) / 2 * Math.Tan(Angle)), 0)),
        frame.Rotate(new(Math.Cos(Angle), Math.Sin(Angle), 0)));
}

/// <summary>The edge of a slot with round ends, or of a tab of that form.</summary>
internal sealed record SlotEdge(double X, double Y, double Angle, double Overall, double Width, bool IsHole) : EdgeCurve
{
    private double Side => IsHole ? 1 : -1;

    private double Straight => Math.Max(0, Overall - Width);

    public override int Count => 5;

    public override double Length => (2 * Straight) + (Math.PI * Width);

    public override double Depth(double x, double y, Span<double> slope)
    {
        var (sin, cos) = Math.SinCos(Angle);
        var (along, across) = ((cos * (x - X)) + (sin * (y - Y)), (cos * (y - Y)) - (sin * (x - X)));
        var beyond = Math.Max(0, Math.Abs(along) - (Straight / 2)) * Math.Sign(along);
        var distance = Math.Sqrt((beyond * beyond) + (across * across));
        var (u, v) = distance > 0 ? (beyond / distance, across / distance) : (0, 0);
        (slope[0], slope[1]) = (-Side * ((cos * u) - (sin * v)), -Side * ((sin * u) + (cos * v)));
        slope[2] = Side * ((u * across) - (v * along));
        slope[3] = -Side * Math.Abs(u) / 2;
        slope[4] = Side * (Math.Abs(u) - 1) / 2;
        return Side * (distance - (Width / 2));
    }

    public override EdgeCurve Step(ReadOnlySpan<double> by) => this with
    {
        X = X + by[0],
        Y = Y + by[1],
        Angle = Angle + by[2],
        Overall = Overall + by[3],
        Width = Width + by[4],
    };

    public override double[] Minus(EdgeCurve other) => other is SlotEdge o
        ? [X - o.X, Y - o.Y, Angle - o.Angle, Overall - o.Overall, Width - o.Width]
        : throw new ArgumentException("two kinds of edge");

    public override EdgeCurve Cut(double by, double aside, double direction) => this with
    {
        X = X + (aside * Math.Cos(direction)),
        Y = Y + (aside * Math.Sin(direction)),
        Overall = Overall + (2 * Side * by),
        Width = Width + (2 * Side * by),
    };

    public override IEnumerable<(double X, double Y, double InX, double InY)> Places(double spacing)
    {
        var count = Math.Max(12, (int)Math.Round(Length / spacing));
        var (sin, cos) = Math.SinCos(Angle);
        for (var k = 0; k < count; k++)
        {
            var (along, across, u, v) = At(Length * k / count);
            yield return (X + (cos * along) - (sin * across), Y + (sin * along) + (cos * across),
                Side * ((cos * u) - (sin * v)), Side * ((sin * u) + (cos * v)));
        }
    }

    public override Shape ToShape(RigidTransform frame) => new Slot3D(
        frame.Apply(new(X, Y, 0)), frame.Rotate(Vector3D.UnitZ), frame.Rotate(new(Math.Cos(Angle), Math.Sin(Angle), 0)), Overall, Width);

    /// <summary>The place at a length along the outline, from the middle of one side on, and the direction out of the slot there.</summary>
    private (double Along, double Across, double OutX, double OutY) At(double length)
    {
        var (half, radius) = (Straight / 2, Width / 2);
        var arc = Math.PI * radius;
        if (length < half)
        {
            return (length, -radius, 0, -1);
        }

        if (length < half + arc)
        {
            var a = ((length - half) / radius) - (Math.PI / 2);
            return (half + (radius * Math.Cos(a)), radius * Math.Sin(a), Math.Cos(a), Math.Sin(a));
        }

        if (length < (3 * half) + arc)
        {
            return ((2 * half) + arc - length, radius, 0, 1);
        }

        if (length < (3 * half) + (2 * arc))
        {
            var a = ((length - (3 * half) - arc) / radius) + (Math.PI / 2);
            return (-half + (radius * Math.Cos(a)), radius * Math.Sin(a), Math.Cos(a), Math.Sin(a));
        }

        return (length - Length, -radius, 0, -1);
    }
}

namespace Bostel.Core.Geometry;

/// <summary>
/// An ideal (nominal or associated) feature. <see cref="Distance"/> is the signed orthogonal distance of a point from the surface:
/// positive on the side the normal of a plane points to, and away from the axis or centre of a round shape.
/// </summary>
public abstract record Shape
{
    public abstract string Kind { get; }

    public abstract double Distance(Vector3D p);

    public abstract Shape Transformed(RigidTransform t);

    /// <summary>Unit direction in which the distance of a point from a surface grows; zero for lines, circles and slots.</summary>
    public virtual Vector3D Gradient(Vector3D p) => Vector3D.Zero;

    /// <summary>Signed distances of points given as 3·N coordinates.</summary>
    public double[] Distances(double[] points)
    {
        var distances = new double[points.Length / 3];
        for (var i = 0; i < distances.Length; i++)
        {
            distances[i] = Distance(Vector3D.At(points, i));
        }

        return distances;
    }
}

public sealed record Plane3D(Vector3D Point, Vector3D Normal) : Shape
{
    public override string Kind => "plane";

    public override double Distance(Vector3D p) => (p - Point).Dot(Normal);

    public override Vector3D Gradient(Vector3D p) => Normal;

    public override Shape Transformed(RigidTransform t) => new Plane3D(t.Apply(Point), t.Rotate(Normal));

    public Vector3D Project(Vector3D p) => p - (Distance(p) * Normal);
}

/// <summary>A straight line; the distance is not signed.</summary>
public sealed record Line3D(Vector3D Point, Vector3D Direction) : Shape
{
    public override string Kind => "line";

    public override double Distance(Vector3D p) => (p - Point).Cross(Direction).Length;

    public override Shape Transformed(RigidTransform t) => new Line3D(t.Apply(Point), t.Rotate(Direction));

    public Vector3D Project(Vector3D p) => Point + ((p - Point).Dot(Direction) * Direction);

    /// <summary>Where the line pierces a plane; null when parallel.</summary>
    public Vector3D? Meet(Plane3D plane)
    {
        var along = Direction.Dot(plane.Normal);
        return Math.Abs(along) < 1e-12 ? null : Point - (plane.Distance(Point) / along * Direction);
    }
}

/// <summary>A circle; the distance is taken in its plane.</summary>
public sealed record Circle3D(Vector3D Center, Vector3D Normal, double Radius) : Shape
{
    public override string Kind => "circle";

    public override double Distance(Vector3D p)
    {
        var v = p - Center;
        return (v - (v.Dot(Normal) * Normal)).Length - Radius;
    }

    public override Shape Transformed(RigidTransform t) => new Circle3D(t.Apply(Center), t.Rotate(Normal), Radius);
}

/// <summary>
/// An obround: two parallel straight sides closed by half circles. <see cref="Length"/> is overall, <see cref="Width"/> the distance of the
/// sides. The distance is taken in its plane, positive outside.
/// </summary>
public sealed record Slot3D(Vector3D Center, Vector3D Normal, Vector3D Direction, double Length, double Width) : Shape
{
    public override string Kind => "slot";

    public override double Distance(Vector3D p)
    {
        var v = p - Center;
        var x = Math.Max(0, Math.Abs(v.Dot(Direction)) - ((Length - Width) / 2));
        var y = v.Dot(Normal.Cross(Direction));
        return Math.Sqrt((x * x) + (y * y)) - (Width / 2);
    }

    public override Shape Transformed(RigidTransform t) =>
        new Slot3D(t.Apply(Center), t.Rotate(Normal), t.Rotate(Direction), Length, Width);
}

public sealed record Sphere3D(Vector3D Center, double Radius) : Shape
{
    public override string Kind => "sphere";

    public override double Distance(Vector3D p) => (p - Center).Length - Radius;

    public override Vector3D Gradient(Vector3D p) => (p - Center).Normalized();

    public override Shape Transformed(RigidTransform t) => new Sphere3D(t.Apply(Center), Radius);
}

public sealed record Cylinder3D(Vector3D Point, Vector3D Axis, double Radius) : Shape
{
    public override string Kind => "cylinder";

    public Line3D AxisLine => new(Point, Axis);

    public override double Distance(Vector3D p) => (p - Point).Cross(Axis).Length - Radius;

    public override Vector3D Gradient(Vector3D p) => (p - AxisLine.Project(p)).Normalized();

    public override Shape Transformed(RigidTransform t) => new Cylinder3D(t.Apply(Point), t.Rotate(Axis), Radius);
}

/// <summary>A cone opening from its apex along its axis; the half angle lies between axis and generator.</summary>
public sealed record Cone3D(Vector3D Apex, Vector3D Axis, double HalfAngle) : Shape
{
    public override string Kind => "cone";

    public override double Distance(Vector3D p)
    {
        var v = p - Apex;
        var h = v.Dot(Axis);
        var rho = (v - (h * Axis)).Length;
        return (rho * Math.Cos(HalfAngle)) - (h * Math.Sin(HalfAngle));
    }

    public override Vector3D Gradient(Vector3D p)
    {
        var v = p - Apex;
        return (Math.Cos(HalfAngle) * (v - (v.Dot(Axis) * Axis)).Normalized()) - (Math.Sin(HalfAngle) * Axis);
    }

    public override Shape Transformed(RigidTransform t) => new Cone3D(t.Apply(Apex), t.Rotate(Axis), HalfAngle);
}

public sealed record Torus3D(Vector3D Center, Vector3D Axis, double MajorRadius, double MinorRadius) : Shape
{
    public override string Kind => "torus";

    public override double Distance(Vector3D p)
    {
        var v = p - Center;
        var h = v.Dot(Axis);
        var s = (v - (h * Axis)).Length - MajorRadius;
        return Math.Sqrt((s * s) + (h * h)) - MinorRadius;
    }

    public override Vector3D Gradient(Vector3D p)
    {
        var v = p - Center;
        return (v - (MajorRadius * (v - (v.Dot(Axis) * Axis)).Normalized())).Normalized();
    }

    public override Shape Transformed(RigidTransform t) => new Torus3D(t.Apply(Center), t.Rotate(Axis), MajorRadius, MinorRadius);
}

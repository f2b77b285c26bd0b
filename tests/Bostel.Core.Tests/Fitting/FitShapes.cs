using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tests.Fitting;

/// <summary>True features, points on them by their definition, and comparison of features.</summary>
internal static class FitShapes
{
    public static Shape Truth(string kind, Vector3D center, Vector3D axis) => kind switch
    {
        "line" => new Line3D(center, axis),
        "plane" => new Plane3D(center, axis),
        "circle" => new Circle3D(center, axis, 8),
        "sphere" => new Sphere3D(center, 8),
        "cylinder" => new Cylinder3D(center, axis, 8),
        "cone" => new Cone3D(center, axis, 0.4),
        "torus" => new Torus3D(center, axis, 20, 6),
        _ => new Slot3D(center, axis, axis.Perpendicular(), 30, 10),
    };

    public static Vector3D AxisOf(Shape s) => s switch
    {
        Line3D l => l.Direction,
        Plane3D p => p.Normal,
        Circle3D c => c.Normal,
        Cylinder3D c => c.Axis,
        Cone3D c => c.Axis,
        Torus3D t => t.Axis,
        Slot3D t => t.Normal,
        _ => Vector3D.UnitZ,
    };

    public static Vector3D PointOf(Shape s) => s switch
    {
        Line3D l => l.Point,
        Plane3D p => p.Point,
        Circle3D c => c.Center,
        Sphere3D c => c.Center,
        Cylinder3D c => c.Point,
        Cone3D c => c.Apex,
        Torus3D t => t.Center,
        Slot3D t => t.Center,
        _ => default,
    };

    public static double? RadiusOf(Shape s) => s switch
    {
        Circle3D c => c.Radius,
        Sphere3D c => c.Radius,
        Cylinder3D c => c.Radius,
        Torus3D t => t.MinorRadius,
        Slot3D t => t.Width / 2,
        _ => null,
    };

    /// <summary>Points spread over the feature, moved along its normal by noise and an offset.</summary>
    public static double[] Points(Shape truth, double share, double noise, int seed, int count, double offset = 0)
    {
        var random = new Random(seed);
        var z = AxisOf(truth);
        var x = truth is Slot3D slot ? slot.Direction : z.Perpendicular();
        var y = z.Cross(x);
        return [.. Enumerable.Range(0, count).SelectMany(i =>
        {
            var (s, c) = Math.SinCos(2 * Math.PI * share * (i + random.NextDouble()) / count);
            var along = random.NextDouble();
            var e = offset + (noise * Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble()));
            var ring = (c * x) + (s * y);
            return (truth switch
            {
                Line3D l => l.Point + (40 * (along - 0.5) * z) + (e * ring),
                Plane3D p => p.Point + (40 * (along - 0.5) * x) + (15 * c * y) + (e * z),
                Circle3D k => k.Center + ((k.Radius + e) * ring),
                Sphere3D k =>
                    k.Center + ((k.Radius + e) * ((Math.Sqrt(1 - Math.Pow((2 * along) - 1, 2)) * ring) + (((2 * along) - 1) * z))),
                Cylinder3D k => k.Point + (30 * (along - 0.5) * z) + ((k.Radius + e) * ring),
                Cone3D k => k.Apex + ((10 + (20 * along)) * ((Math.Cos(k.HalfAngle) * z) + (Math.Sin(k.HalfAngle) * ring)))
                    + (e * ((Math.Cos(k.HalfAngle) * ring) - (Math.Sin(k.HalfAngle) * z))),
                Torus3D k => k.Center + (k.MajorRadius * ring)
                    + ((k.MinorRadius + e) * ((Math.Cos(2 * Math.PI * along) * ring) + (Math.Sin(2 * Math.PI * along) * z))),
                Slot3D k => k.Center + OnSlot(k, (i + (0.5 * along)) / count, e, x, y),
                _ => default,
            }).ToArray();
        })];
    }

    /// <summary>At a share of the way round an obround.</summary>
    private static Vector3D OnSlot(Slot3D k, double share, double e, Vector3D x, Vector3D y)
    {
        var (r, half) = (k.Width / 2, (k.Length - k.Width) / 2);
        var t = share * ((4 * half) + (2 * Math.PI * r));
        var (side, turn) = t < (2 * half) + (Math.PI * r) ? (1, t) : (-1, t - (2 * half) - (Math.PI * r));
        if (turn < 2 * half)
        {
            return side * (((turn - half) * x) - ((r + e) * y));
        }

        var (s, c) = Math.SinCos(((turn - (2 * half)) / r) - (Math.PI / 2));
        return side * (((half + ((r + e) * c)) * x) + ((r + e) * s * y));
    }

    public static void AssertSame(Shape expected, Shape found, double within)
    {
        Assert.Equal(expected.Kind, found.Kind);
        Assert.InRange(AxisOf(expected).LineAngleTo(AxisOf(found)), 0, within);
        Assert.InRange(Vector3D.Distance(Place(expected, expected), Place(found, expected)), 0, 20 * within);
        if (RadiusOf(expected) is { } radius)
        {
            Assert.Equal(radius, RadiusOf(found)!.Value, 5 * within);
        }

        switch (expected, found)
        {
            case (Cone3D e, Cone3D f):
                Assert.Equal(e.HalfAngle, f.HalfAngle, within);
                break;
            case (Torus3D e, Torus3D f):
                Assert.Equal(e.MajorRadius, f.MajorRadius, 5 * within);
                break;
            case (Slot3D e, Slot3D f):
                Assert.Equal(e.Length, f.Length, 5 * within);
                Assert.InRange(e.Direction.LineAngleTo(f.Direction), 0, within);
                break;
        }
    }

    /// <summary>A point of a plane, line or axis is any of them: compared at the foot of the expected one's.</summary>
    private static Vector3D Place(Shape s, Shape expected) => s switch
    {
        Plane3D p => p.Project(PointOf(expected)),
        Line3D l => l.Project(PointOf(expected)),
        Cylinder3D c => c.AxisLine.Project(PointOf(expected)),
        _ => PointOf(s),
    };

    public static int HeldCount(string kind, string held) => held.Split(' ').Sum(part => (part, kind) switch
    {
        ("direction", "slot") => 1,
        ("direction", _) => 2,
        ("on", "circle" or "sphere") => 2,
        ("on", _) => 4,
        _ => 1,
    });

    public static void AssertHeld(Shape found, Known known)
    {
        if (known.Direction is { } d)
        {
            var own = found is Slot3D slot ? slot.Direction : AxisOf(found);
            var wanted = found is Slot3D flat ? d - (d.Dot(flat.Normal) * flat.Normal) : d;
            Assert.InRange(own.LineAngleTo(wanted.Normalized()), 0, 1e-12);
        }

        if (known.Radius is { } r)
        {
            Assert.Equal(r, RadiusOf(found)!.Value, 1e-12);
        }

        if (known.HalfAngle is { } a)
        {
            Assert.Equal(a, ((Cone3D)found).HalfAngle, 1e-12);
        }

        if (known.On is { } line)
        {
            Assert.InRange(line.Distance(PointOf(found)), 0, 1e-11);
        }
    }

    /// <summary>The feature moved a little in every way that leaves the held parts as they are.</summary>
    public static IEnumerable<Shape> Neighbours(Shape s, string held, Known known)
    {
        const double Step = 1e-4;
        var z = AxisOf(s);
        var (x, y) = (z.Perpendicular(), z.Cross(z.Perpendicular()));
        var line = held.Contains("on", StringComparison.Ordinal) && !held.Contains("direction", StringComparison.Ordinal);
        Vector3D[] shifts = line ? s is Circle3D ? [] : [known.On!.Direction] : s is Circle3D or Slot3D ? [x, y] : [x, y, z];
        foreach (var sign in (double[])[-Step, Step])
        {
            foreach (var shift in shifts)
            {
                yield return s.Transformed(RigidTransform.FromTranslation(sign * shift));
            }

            if (!held.Contains("direction", StringComparison.Ordinal) && !line && s is not (Circle3D or Slot3D))
            {
                foreach (var axis in (Vector3D[])[x, y])
                {
                    yield return s.Transformed(RigidTransform.FromTwist(sign / 10 * axis, default, PointOf(s)));
                }
            }

            if (known.Radius is null)
            {
                yield return s switch
                {
                    Circle3D k => k with { Radius = k.Radius + sign },
                    Sphere3D k => k with { Radius = k.Radius + sign },
                    Cylinder3D k => k with { Radius = k.Radius + sign },
                    Torus3D k => k with { MinorRadius = k.MinorRadius + sign },
                    Slot3D k => k with { Width = k.Width + sign, Length = k.Length + sign },
                    _ => s,
                };
            }

            yield return s switch
            {
                Cone3D k when known.HalfAngle is null => k with { HalfAngle = k.HalfAngle + (sign / 10) },
                Torus3D k => k with { MajorRadius = k.MajorRadius + sign },
                Slot3D k => k with { Length = k.Length + sign },
                _ => s,
            };
        }
    }

    /// <summary>Points of a flat feature taken into its plane through their centroid, as the fit does.</summary>
    public static double[] InPlane(double[] points, Shape s, Vector3D reference) => s switch
    {
        Circle3D c => PointSums.Project(points, new(reference, c.Normal)),
        Slot3D c => PointSums.Project(points, new(reference, c.Normal)),
        _ => points,
    };
}

using Bostel.Core.Geometry;
using CsCheck;

namespace Bostel.Core.Tests.Geometry;

/// <summary>Distances and gradients of ideal shapes against their definitions.</summary>
public class ShapeTests
{
    private static readonly Gen<Vector3D> Points =
        Gen.Select(Gen.Double[-30, 30], Gen.Double[-30, 30], Gen.Double[-30, 30], (x, y, z) => new Vector3D(x, y, z));

    private static readonly Gen<Vector3D> Directions = Points.Where(v => v.Length > 1).Select(v => v.Normalized());

    private static readonly Gen<Shape> Surfaces =
        Gen.Select(Points, Directions, Gen.Double[2, 20], Gen.Double[0.1, 1.4], Gen.Int[0, 4], (p, d, r, a, kind) => kind switch
    {
        0 => new Plane3D(p, d),
        1 => new Sphere3D(p, r),
        2 => new Cylinder3D(p, d, r),
        3 => new Cone3D(p, d, a),
        _ => (Shape)new Torus3D(p, d, r + 5, r / 3),
    });

    private static readonly Gen<RigidTransform> Motions = Gen.Select(
        Directions, Gen.Double[-3, 3], Points, (axis, angle, t) => RigidTransform.FromAxisAngle(axis, angle) with { Translation = t });

    /// <summary>
    /// The distance of a point in the direction of the gradient grows by the step: surfaces and their offsets are parallel. Near an axis or
    /// an apex, where the foot changes sides, the gradient jumps: such points are left out.
    /// </summary>
    [Fact]
    public void AStepAlongTheGradientIsAStepOfTheDistance() => Gen.Select(Surfaces, Points).Sample((shape, p) =>
    {
        const double Step = 0.01;
        var gradient = shape.Gradient(p);
        return !IsSmoothAt(shape, p) || (
            Math.Abs(gradient.Length - 1) < 1e-12
            && Math.Abs(shape.Distance(p + (Step * gradient)) - shape.Distance(p) - Step) < 1e-11
            && Math.Abs(shape.Distance(p - (shape.Distance(p) * gradient))) < 1e-9);
    });

    /// <summary>
    /// Across the gradient the distance does not change to first order: by d²/2R at most, R the least radius of curvature of the offset
    /// through the point.
    /// </summary>
    [Fact]
    public void AcrossTheGradientTheDistanceStays() => Gen.Select(Surfaces, Points, Directions).Sample((shape, p, d) =>
    {
        const double Step = 1e-4;
        var gradient = shape.Gradient(p);
        var across = d - (d.Dot(gradient) * gradient);
        return !IsSmoothAt(shape, p) || Math.Abs(shape.Distance(p + (Step * across)) - shape.Distance(p)) < Step * Step;
    });

    [Fact]
    public void DistanceAndGradientFollowAMotion() => Gen.Select(Surfaces, Points, Motions).Sample((shape, p, motion) =>
        Math.Abs(shape.Transformed(motion).Distance(motion.Apply(p)) - shape.Distance(p)) < 1e-9
        && (!IsSmoothAt(shape, p)
            || (shape.Transformed(motion).Gradient(motion.Apply(p)) - motion.Rotate(shape.Gradient(p))).Length < 1e-9));

    /// <summary>Points made on a surface by its parameters lie on it, and their gradient is the known normal.</summary>
    [Fact]
    public void PointsMadeOnASurfaceLieOnIt()
    {
        var frame = RigidTransform.FromAxisAngle(new(1, 2, 3), 0.8) with { Translation = new(4, -5, 6) };
        for (var i = 0; i < 100; i++)
        {
            var (u, v) = (0.37 * i, 0.61 * i);
            var radial = new Vector3D(Math.Cos(u), Math.Sin(u), 0);
            Check(new Cylinder3D(Vector3D.Zero, Vector3D.UnitZ, 7), (7 * radial) + (v * Vector3D.UnitZ), radial);
            Check(new Sphere3D(Vector3D.Zero, 9), 9 * ((Math.Cos(v) * radial) + (Math.Sin(v) * Vector3D.UnitZ)),
                (Math.Cos(v) * radial) + (Math.Sin(v) * Vector3D.UnitZ));
            var tube = (Math.Cos(v) * radial) + (Math.Sin(v) * Vector3D.UnitZ);
            Check(new Torus3D(Vector3D.Zero, Vector3D.UnitZ, 10, 3), (10 * radial) + (3 * tube), tube);

            // A generator of the cone runs along (sin a, cos a) in radius and height, its normal along (cos a, −sin a).
            var (sine, cosine) = Math.SinCos(0.4);
            Check(new Cone3D(Vector3D.Zero, Vector3D.UnitZ, 0.4), (1 + v) * ((sine * radial) + (cosine * Vector3D.UnitZ)),
                (cosine * radial) - (sine * Vector3D.UnitZ));
        }

        void Check(Shape shape, Vector3D p, Vector3D normal)
        {
            var (moved, at) = (shape.Transformed(frame), frame.Apply(p));
            Assert.Equal(0, moved.Distance(at), 1e-12 * 100);
            Assert.Equal(0, (moved.Gradient(at) - frame.Rotate(normal)).Length, 1e-12 * 100);
        }
    }

    /// <summary>The distance of a slot against the nearest of many points on its outline.</summary>
    [Fact]
    public void TheDistanceOfASlotIsThatOfItsNearestPoint()
    {
        const double Length = 20, Width = 6;
        var slot = new Slot3D(new(1, 2, 3), Vector3D.UnitZ, new Vector3D(1, 1, 0).Normalized(), Length, Width);
        var frame = RigidTransform.FromAxes(slot.Direction, slot.Normal.Cross(slot.Direction), slot.Normal, slot.Center);
        var outline = Enumerable.Range(0, 200_000).Select(i =>
        {
            // Half circles about ±7 and sides at ±3.
            var (side, s) = (i % 4, (i / 4 / 50_000.0 * Math.PI) - (Math.PI / 2));
            return side switch
            {
                0 => new Vector3D(7 + (3 * Math.Cos(s)), 3 * Math.Sin(s), 0),
                1 => new Vector3D(-7 - (3 * Math.Cos(s)), 3 * Math.Sin(s), 0),
                2 => new Vector3D(14 * s / Math.PI, 3, 0),
                _ => new Vector3D(14 * s / Math.PI, -3, 0),
            };
        }).ToArray();
        var random = new Random(8);
        for (var k = 0; k < 40; k++)
        {
            var p = new Vector3D((24 * random.NextDouble()) - 12, (10 * random.NextDouble()) - 5, 0);
            var nearest = outline.Min(q => Vector3D.Distance(p, q));

            // Neighbouring points of the outline lie up to 0.28 µm apart (14 mm in 50,000): one on it may be off by half of that.
            Assert.Equal(nearest, Math.Abs(slot.Distance(frame.Apply(p))), 2e-4);
            var inside = Math.Abs(p.X) <= 7 ? Math.Abs(p.Y) < 3 : Math.Pow(Math.Abs(p.X) - 7, 2) + (p.Y * p.Y) < 9;
            Assert.Equal(inside, slot.Distance(frame.Apply(p)) < 0);
        }
    }

    /// <summary>Away from the places where the nearest point of the surface is not one.</summary>
    private static bool IsSmoothAt(Shape shape, Vector3D p) => shape switch
    {
        Sphere3D s => Vector3D.Distance(p, s.Center) > 1,
        Cylinder3D s => s.AxisLine.Distance(p) > 1,

        // Inside a cone the foot of a point behind its apex lies across the axis.
        Cone3D s => new Line3D(s.Apex, s.Axis).Distance(p) > 1 && new Line3D(s.Apex, s.Axis)
            .Distance(p) - (s.Distance(p) * Math.Cos(s.HalfAngle)) > 1,
        Torus3D s => new Line3D(s.Center, s.Axis).Distance(p) > 1 && Math.Abs(s.Distance(p) + s.MinorRadius) > 1,
        _ => true,
    };
}

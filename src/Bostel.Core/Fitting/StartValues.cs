using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>
/// Starts for the iterative fits that need no guess from outside: algebraic fits, over a fan of axis directions where none is known.
/// </summary>
internal static class StartValues
{
    /// <summary>Points used to find a start.</summary>
    private const int PointsOfAStart = 400;

    /// <summary>Even directions over the half sphere by the golden spiral.</summary>
    public static IEnumerable<Vector3D> HalfSphere(int count)
    {
        for (var i = 0; i < count; i++)
        {
            var z = (i + 0.5) / count;
            var r = Math.Sqrt(1 - (z * z));
            var phi = i * Math.PI * (3 - Math.Sqrt(5));
            yield return new(r * Math.Cos(phi), r * Math.Sin(phi), z);
        }
    }

    /// <summary>None when the points lie on a line.</summary>
    /// <exception cref="BadInputException">The line to lie on is parallel to the plane.</exception>
    public static IEnumerable<CircleModel> Circles(double[] flat, RigidTransform frame, Plane3D plane, Known known)
    {
        if (known.On is { } line)
        {
            var center = line.Meet(plane) ?? throw new BadInputException("axis: the axis to lie on does not cut the plane of the circle.");
            return [new(frame with { Translation = center },
                known.Radius ?? MeanDistance(flat, new CircleModel(frame with { Translation = center }, 0)))];
        }

        if (known.Start is Circle3D start)
        {
            return [new(frame with { Translation = plane.Project(start.Center) }, known.Radius ?? start.Radius)];
        }

        if (TaubinCircle.Fit(flat, frame) is not { } circle)
        {
            return [];
        }

        return known.Radius is { } radius
            ? BothSides(flat, circle.Center, radius).Select(c => new CircleModel(frame with { Translation = c }, radius))
            : [new(frame with { Translation = circle.Center }, circle.Radius)];
    }

    /// <summary>The direction in which the points are narrowest across; length and width are their extents along and across it.</summary>
    public static IEnumerable<SlotModel> Slots(double[] flat, RigidTransform frame, Plane3D plane, Known known)
    {
        if (known.Start is Slot3D start)
        {
            var direction = (known.Direction ?? start.Direction) is var d ? d - (d.Dot(plane.Normal) * plane.Normal) : default;
            var slot = new Slot3D(
                plane.Project(start.Center), plane.Normal, direction.Normalized(), start.Length, 2 * known.Radius ?? start.Width);
            return [SlotModel.From(slot)];
        }

        var points = flat.Chunk(3).Select(p => frame.Inverse().Apply(Vector3D.FromArray(p))).ToArray();
        (double Low, double High) Extent(double angle)
        {
            var (s, c) = Math.SinCos(angle);
            return PointSums.Range(points.Select(p => (c * p.X) + (s * p.Y)).ToArray());
        }

        double Across()
        {
            if (known.Direction is { } d)
            {
                var local = frame.Inverse().Rotate(d);
                return Math.Atan2(local.Y, local.X) + (Math.PI / 2);
            }

            const int Directions = 180;
            return Enumerable.Range(0, Directions).Select(i => i * Math.PI / Directions).MinBy(a => Extent(a).High - Extent(a).Low);
        }

        var across = Across();
        var along = across - (Math.PI / 2);
        var (w, l) = (Extent(across), Extent(along));
        var (sin, cos) = Math.SinCos(along);
        var (x, y) = ((l.Low + l.High) / 2, (w.Low + w.High) / 2);
        var turned =
            frame.After(RigidTransform.FromAxisAngle(
                Vector3D.UnitZ, along) with
            { Translation = new((cos * x) - (sin * y), (sin * x) + (cos * y), 0) });
        var radius = known.Radius ?? (w.High - w.Low) / 2;
        return [new(turned, Math.Max(0.02 * radius, ((l.High - l.Low) / 2) - radius), radius)];
    }

    /// <summary>None when the points lie in a plane, or do not tell where on the line to lie on.</summary>
    public static IEnumerable<SphereModel> Spheres(double[] points, Vector3D c, Known known)
    {
        var local = PointSums.Thin(points, 5 * PointsOfAStart, -c);
        if (known.On is { } line)
        {
            return AlgebraicStart.SphereOnLine(local, line.Point - c, line.Direction) is var (center, radius)
                ? [new(center + c, known.Radius ?? radius)]
                : [];
        }

        if (known.Start is Sphere3D start)
        {
            return [new(start.Center, known.Radius ?? start.Radius)];
        }

        if (AlgebraicStart.Sphere(local) is var (found, size))
        {
            return known.Radius is { } held ? BothSides(points, found + c, held)
                .Select(p => new SphereModel(p, held)) : [new(found + c, size)];
        }

        return [];
    }

    public static IEnumerable<CylinderModel> Cylinders(double[] points, Vector3D c, Known known)
    {
        if (known.On is { } line)
        {
            var axis = Frames.Along(line.Project(c), line.Direction);
            return [new(axis, known.Radius ?? MeanDistance(points, new CylinderModel(axis, 0)))];
        }

        if (known.Start is Cylinder3D start)
        {
            var direction = known.Direction ?? start.Axis;
            return [new(Frames.Along(start.AxisLine.Project(c), direction), known.Radius ?? start.Radius)];
        }

        if (known.Direction is { } held)
        {
            var frame = Frames.Along(c, held);
            if (TaubinCircle.Fit(PointSums.Thin(points, 5 * PointsOfAStart), frame) is not { } circle)
            {
                return [];
            }

            return known.Radius is { } r
                ? BothSides(points, circle.Center, r).Select(p => new CylinderModel(frame with { Translation = p }, r))
                : [new(frame with { Translation = circle.Center }, circle.Radius)];
        }

        return Ranked(points, c, HalfSphere(400), cone: false).Take(6)
            .Select(s => new CylinderModel(Frames.Along(new Line3D(s.Point + c, s.Axis).Project(c), s.Axis), known.Radius ?? s.Radius));
    }

    public static IEnumerable<ConeModel> Cones(double[] points, Vector3D c, Known known)
    {
        if (known.Start is Cone3D start)
        {
            var line = known.On ?? new(start.Apex, known.Direction ?? start.Axis);
            var axis = line.Direction.Dot(start.Axis) < 0 ? -line.Direction : line.Direction;
            return [ConeModel.From(new(line.Project(start.Apex), axis.Normalized(), known.HalfAngle ?? start.HalfAngle), c)];
        }

        if (known.On is { } on)
        {
            return AlgebraicStart.ConesAbout(PointSums.Thin(points, PointsOfAStart), new(on.Project(c), on.Direction), known.HalfAngle);
        }

        IEnumerable<Vector3D> axes = known.Direction is { } held ? [held.Normalized()] : HalfSphere(400);
        return Ranked(points, c, axes, cone: true).Where(s => Math.Abs(s.Slope) > 1e-4).Take(8)
            .Select(s => new ConeModel(
                Frames.Along(s.Point + c, s.Slope > 0 ? s.Axis : -s.Axis), known.HalfAngle ?? Math.Atan(Math.Abs(s.Slope)), s.Radius));
    }

    /// <summary>All directions are tried on few points, the better ones on more.</summary>
    private static List<AlgebraicStart.RoundStart> Ranked(double[] points, Vector3D c, IEnumerable<Vector3D> axes, bool cone)
    {
        var first = AlgebraicStart.Round(PointSums.Thin(points, PointsOfAStart / 4, -c), axes, cone);
        return AlgebraicStart.Round(PointSums.Thin(points, PointsOfAStart, -c), first.Take(60).Select(s => s.Axis), cone);
    }

    /// <summary>Axes over the half sphere, through the mean point (whole ring) or beside it (a piece of the ring).</summary>
    public static IEnumerable<TorusModel> Tori(double[] points, Vector3D c, Known known)
    {
        if (known.Start is Torus3D start)
        {
            var center = known.On?.Project(start.Center) ?? start.Center;
            return [new(Frames.Along(center, known.AxisDirection ?? start.Axis), start.MajorRadius, known.Radius ?? start.MinorRadius)];
        }

        var reach = PointSums.Extent(points, c);
        if (known.On is { } on)
        {
            var rho = MeanDistance(points, new CylinderModel(Frames.Along(on.Project(c), on.Direction), 0));
            return ((double[])[0.1, 0.25, 0.5])
                .Select(s => new TorusModel(Frames.Along(on.Project(c), on.Direction), rho, known.Radius ?? s * rho));
        }

        IEnumerable<Vector3D> axes = known.Direction is { } held ? [held.Normalized()] : HalfSphere(40);
        return axes.SelectMany(axis => Rings(axis))
            .Select(t => new TorusModel(Frames.Along(t.Center + c, t.Axis), t.MajorRadius, known.Radius ?? t.MinorRadius));

        IEnumerable<Torus3D> Rings(Vector3D axis)
        {
            yield return new(Vector3D.Zero, axis, 0.75 * reach, 0.25 * reach);
            var u = axis.Perpendicular();
            for (var k = 0; k < 6; k++)
            {
                var aside = RigidTransform.FromAxisAngle(axis, k * Math.PI / 3).Rotate(u);
                yield return new(reach * aside, axis, reach, 0.4 * reach);
            }
        }
    }

    /// <summary>
    /// With the radius held a short arc may be met from either side: centres a radius away from the centroid, toward and away from the free
    /// centre.
    /// </summary>
    private static Vector3D[] BothSides(double[] points, Vector3D free, double radius)
    {
        var c = PointSums.Centroid(points);
        var away = free - c;
        var step = away.Length > 1e-9 ? radius * away.Normalized() : Vector3D.Zero;
        return [free, c + step, c - step];
    }

    private static double MeanDistance<TModel>(double[] points, TModel model)
        where TModel : struct, IShapeModel<TModel> => PointBlocks.Distances(PointSums.Thin(points, 5 * PointsOfAStart), model).Average();
}

using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>
/// Minimum-zone, minimum-circumscribed, maximum-inscribed and outer-tangent association, from the least-squares feature by
/// <see cref="ActiveSet"/>. Maximum inscribed has several local optima: this is the best one reached from the least-squares feature and,
/// for cylinders, from eight tilted ones.
/// </summary>
public static class ExtremalFit
{
    /// <exception cref="BadInputException">The criterion is not defined for the kind, or the points do not determine it.</exception>
    public static FitResult Fit(string kind, Criterion criterion, double[] points, Known? known = null)
    {
        known ??= Known.Nothing;
        known.Check(kind);
        if (known.Radius is not null && criterion != Criterion.MinimumZone)
        {
            throw new BadInputException($"radius: cannot be held where {Name(criterion)} seeks it.");
        }

        return (kind, criterion) switch
        {
            ("plane", Criterion.MinimumZone) => MinimumZonePlane(points, known),
            ("plane", Criterion.OuterTangent) => OuterTangentPlane(points, known),
            ("line", Criterion.MinimumZone) => known.Normal is null
                ? MinimumZoneLine(points, known)
                : LineInPlane(points, criterion, known),
            ("line", Criterion.OuterTangent) => LineInPlane(points, criterion, known),
            ("circle", not Criterion.OuterTangent) => Circle(points, criterion, known),
            ("sphere", not Criterion.OuterTangent) => Sphere(points, criterion, known),
            ("cylinder", not Criterion.OuterTangent) => Cylinder(points, criterion, known),
            ("cone", Criterion.MinimumZone) => Cone(points, known),
            ("torus", Criterion.MinimumZone) => Torus(points, known),
            ("slot", Criterion.MinimumZone) => Slot(points, known),
            _ => throw new BadInputException($"method: {Name(criterion)} is not defined for a {kind}."),
        };
    }

    /// <summary>Plane: minimum zone (the middle plane of the two enclosing ones).</summary>
    public static FitResult MinimumZonePlane(double[] points, Known? known = null)
    {
        var start = LeastSquares.Plane(points, known).OrThrow();
        return Settle(points, PlaneModel.From((Plane3D)start.Shape), known ?? Known.Nothing, Criterion.MinimumZone, start);
    }

    /// <summary>Straight line in a known plane, minimum zone or outer tangent.</summary>
    public static FitResult LineInPlane(double[] points, Criterion criterion, Known known)
    {
        var normal = (known.Normal ?? throw new BadInputException("normal: the tangent line needs the plane it lies in.")).Normalized();
        var start = LeastSquares.LineInPlane(points, known).OrThrow();
        var line = (Line3D)start.Shape;
        var across = normal.Cross(line.Direction).Normalized();
        if (criterion == Criterion.OuterTangent && across.Dot(Outward(known)) < 0)
        {
            across = -across;
        }

        var flat = PointSums.Project(points, new(line.Point, normal));

        // The line is a plane that may turn about the normal only: local x along the line, z across it.
        var along = across.Cross(normal);
        var model = new PlaneModel(RigidTransform.FromAxes(along, across.Cross(along), across, line.Point));
        var turn = new Freedom(new double[,] { { 0 }, { 1 }, { 0 } }, [true]);
        var leastSum = criterion == Criterion.OuterTangent && known.LeastSum;
        var found = known.Direction is null ? ActiveSet.Solve(flat, model, turn, leastSum ? Sides.Above : Sides.Zone) : model;
        var (plane, residuals, form) = Place(flat, found, criterion);
        var direction = ((Plane3D)plane.ToShape()).Normal.Cross(normal).Normalized();
        return new(new Line3D(plane.Frame.Translation, direction), criterion, residuals, form, null, start.Reference, 0);
    }

    /// <summary>Straight line in space, minimum zone: the axis of the smallest cylinder that contains the points.</summary>
    public static FitResult MinimumZoneLine(double[] points, Known? known = null)
    {
        known ??= Known.Nothing;
        var start = LeastSquares.Line(points, known).OrThrow();
        var line = (Line3D)start.Shape;
        var model = new CylinderModel(Frames.Along(line.Point, line.Direction), 0);
        var found = ActiveSet.Solve(points, model, Freedom.Of(known, model, sized: false), Sides.Above);
        var axis = (Cylinder3D)found.ToShape();
        var residuals = PointBlocks.Distances(points, found);
        return new(new Line3D(axis.AxisLine.Project(start.Reference), axis.Axis), Criterion.MinimumZone, residuals,
            2 * PointSums.Range(residuals).High, null, start.Reference, 0);
    }

    /// <summary>
    /// Plane outside the material touching the points. The sum of the distances is least when asked (a face of the convex hull); otherwise
    /// the greatest distance is least (the minimum-zone plane moved outward).
    /// </summary>
    private static FitResult OuterTangentPlane(double[] points, Known known)
    {
        var start = LeastSquares.Plane(points, known).OrThrow();
        var plane = (Plane3D)start.Shape;
        var model = PlaneModel.From(plane.Normal.Dot(Outward(known)) < 0 ? plane with { Normal = -plane.Normal } : plane);

        // About the centroid the mean distance is −t, so the least t with all points below is the least sum.
        return Settle(points, model, known, Criterion.OuterTangent, start, known.LeastSum ? Sides.Above : Sides.Zone);
    }

    private static FitResult Circle(double[] points, Criterion criterion, Known known)
    {
        var start = LeastSquares.Circle(points, known).OrThrow();
        var circle = (Circle3D)start.Shape;
        var flat = PointSums.Project(points, new(circle.Center, circle.Normal));
        return Settle(flat, new CircleModel(Frames.Along(circle.Center, circle.Normal), circle.Radius), known, criterion, start);
    }

    private static FitResult Sphere(double[] points, Criterion criterion, Known known)
    {
        var start = LeastSquares.Sphere(points, known).OrThrow();
        var sphere = (Sphere3D)start.Shape;
        return Settle(points, new SphereModel(sphere.Center, sphere.Radius), known, criterion, start);
    }

    /// <summary>Cylinder; a start spares the search for one.</summary>
    public static FitResult Cylinder(double[] points, Criterion criterion, Known? known = null)
    {
        known ??= Known.Nothing;
        var start = LeastSquares.Cylinder(points, known).OrThrow();
        return Starts(points, (Cylinder3D)start.Shape, start.Form, known)
            .Select(s => Settle(points, CylinderModel.From(s), known, criterion, start))
            .MinBy(fit => Merit(fit, criterion))!;
    }

    private static FitResult Cone(double[] points, Known known)
    {
        var start = LeastSquares.Cone(points, known).OrThrow();
        return Settle(points, ConeModel.From((Cone3D)start.Shape, start.Reference), known, Criterion.MinimumZone, start);
    }

    private static FitResult Torus(double[] points, Known known)
    {
        var start = LeastSquares.Torus(points, known).OrThrow();
        return Settle(points, TorusModel.From((Torus3D)start.Shape), known, Criterion.MinimumZone, start);
    }

    private static FitResult Slot(double[] points, Known known)
    {
        var start = LeastSquares.Slot(points, known).OrThrow();
        var slot = (Slot3D)start.Shape;
        return Settle(PointSums.Project(points, new(slot.Center, slot.Normal)), SlotModel.From(slot), known, Criterion.MinimumZone, start);
    }

    /// <summary>
    /// The least-squares cylinder and eight tilted by the form error: circumscribed and inscribed cylinders have several local optima close
    /// together.
    /// </summary>
    private static IEnumerable<Cylinder3D> Starts(double[] points, Cylinder3D cylinder, double form, Known known)
    {
        yield return cylinder;
        if (known.AxisDirection is not null)
        {
            yield break;
        }

        var frame = Frames.Along(cylinder.Point, cylinder.Axis);
        var tilt = form / PointSums.Extent(points, cylinder.Point);
        for (var k = 0; k < 8; k++)
        {
            var (s, c) = Math.SinCos(k * Math.PI / 4);
            yield return cylinder with { Axis = Frames.Tilted(frame, tilt * c, tilt * s, Vector3D.Zero).Rotate(Vector3D.UnitZ) };
        }
    }

    private static double Merit(FitResult fit, Criterion criterion) => criterion switch
    {
        Criterion.MinimumCircumscribed => ((Cylinder3D)fit.Shape).Radius,
        Criterion.MaximumInscribed => -((Cylinder3D)fit.Shape).Radius,
        _ => fit.Form,
    };

    private static FitResult Settle<TModel>(
        double[] points, TModel start, Known known, Criterion criterion, FitResult from, Sides? sides = null)
        where TModel : struct, IShapeModel<TModel>
    {
        var binding = sides ?? criterion switch
        {
            Criterion.MinimumCircumscribed or Criterion.OuterTangent => Sides.Above,
            Criterion.MaximumInscribed => Sides.Below,
            _ => known.Radius is null ? Sides.Zone : Sides.Both,
        };
        var found = ActiveSet.Solve(points, start, Freedom.Of(known, start, sized: false), binding);
        var (model, residuals, form) = known.Radius is null ? Place(points, found, criterion) : Measure(points, found);
        return new(Anchored(model.ToShape(), from.Reference), criterion, residuals, form, null, from.Reference, 0);
    }

    /// <summary>Moves the surface along its normals to where the criterion wants it.</summary>
    private static (TModel Model, double[] Residuals, double Form) Place<TModel>(double[] points, TModel model, Criterion criterion)
        where TModel : struct, IShapeModel<TModel>
    {
        var (low, high) = PointSums.Range(PointBlocks.Distances(points, model));
        return Measure(points, model.Grown(criterion switch
        {
            Criterion.MinimumCircumscribed or Criterion.OuterTangent => high,
            Criterion.MaximumInscribed => low,
            _ => 0.5 * (low + high),
        }));
    }

    private static (TModel Model, double[] Residuals, double Form) Measure<TModel>(double[] points, TModel model)
        where TModel : struct, IShapeModel<TModel>
    {
        var residuals = PointBlocks.Distances(points, model);
        var (low, high) = PointSums.Range(residuals);
        return (model, residuals, high - low);
    }

    /// <summary>Points of planes and axes are given at the foot of the centroid.</summary>
    private static Shape Anchored(Shape shape, Vector3D reference) => shape switch
    {
        Plane3D s => s with { Point = s.Project(reference) },
        Cylinder3D s => s with { Point = s.AxisLine.Project(reference) },
        _ => shape,
    };

    private static Vector3D Outward(Known known) =>
        known.Outward ?? throw new BadInputException("outward: an outer tangent needs a direction out of the material.");

    private static string Name(Criterion criterion) => System.Text.Json.JsonSerializer.Serialize(criterion).Trim('"');
}

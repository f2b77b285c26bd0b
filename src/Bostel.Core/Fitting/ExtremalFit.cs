using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>
/// Minimum-zone, minimum-circumscribed, maximum-inscribed and outer-tangent association by sequential linear programming from the least-squares
/// feature (Anthony, Bittner, Drieschner et al., Reference algorithms for Chebyshev assessments, PTB/NPL 1996). Each step solves the linearised
/// problem over all points exactly within a trust region that shrinks while steps do not improve (Fletcher, Practical Methods, 14.5). Maximum inscribed has several local optima: this is the one
/// reached from the least-squares feature.
/// </summary>
public static class ExtremalFit
{
    private const int MostSteps = 300;

    /// <summary>Plane: minimum zone (the middle plane of the two enclosing ones).</summary>
    public static FitResult MinimumZonePlane(double[] points)
    {
        var start = LeastSquares.Plane(points);
        var model = Improve(points, PlaneModel.From((Plane3D)start.Shape), (m, s) => m.Step([0, s[1], s[2]]), [1, 2], true, true, Span);
        var normal = ((Plane3D)model.ToShape()).Normal;
        var residuals = LeastSquares.Residuals(points, new Plane3D(start.Reference, normal));
        var middle = 0.5 * (residuals.Max() + residuals.Min());
        var shape = new Plane3D(start.Reference + (middle * normal), normal);
        return Result(points, shape, Criterion.MinimumZone, start.Reference, residuals.Max() - residuals.Min());
    }

    /// <summary>
    /// Plane outside the material touching the points. The sum of the distances is least when <paramref name="leastSum"/> (a face of the convex
    /// hull); otherwise the greatest distance is least (the minimum-zone plane moved outward).
    /// </summary>
    public static FitResult OuterTangentPlane(double[] points, Vector3D outward, bool leastSum)
    {
        var start = leastSum ? LeastSquares.Plane(points) : MinimumZonePlane(points);
        var plane = (Plane3D)start.Shape;
        var normal = plane.Normal.Dot(outward) < 0 ? -plane.Normal : plane.Normal;
        if (leastSum)
        {
            // About the centroid the mean distance is −t, so the least t with all points below is the least sum.
            var model = Improve(points, PlaneModel.From(new(start.Reference, normal)), (m, s) => m.Step([0, s[1], s[2]]), [1, 2], true, false, Top);
            normal = ((Plane3D)model.ToShape()).Normal;
        }

        var top = LeastSquares.Residuals(points, new Plane3D(start.Reference, normal)).Max();
        var shape = new Plane3D(start.Reference + (top * normal), normal);
        return Result(points, shape, Criterion.OuterTangent, start.Reference, -LeastSquares.Residuals(points, shape).Min());
    }

    /// <summary>Circle in a known plane (or the least-squares plane).</summary>
    public static FitResult Circle(double[] points, Criterion criterion, Vector3D? normal = null)
    {
        var start = LeastSquares.Circle(points, normal);
        var circle = (Circle3D)start.Shape;
        var flat = LeastSquares.Project(points, new(circle.Center, circle.Normal));
        var model = Round(flat, new CircleModel(Frames.Along(circle.Center, circle.Normal), circle.Radius), (m, s) => m.Step(s), 2, criterion);
        return Sized(flat, model.ToShape(), criterion, start.Reference, (s, r) => (Circle3D)s with { Radius = r }, s => ((Circle3D)s).Radius);
    }

    /// <summary>Sphere.</summary>
    public static FitResult Sphere(double[] points, Criterion criterion)
    {
        var start = LeastSquares.Sphere(points);
        var sphere = (Sphere3D)start.Shape;
        var model = Round(points, new SphereModel(sphere.Center, sphere.Radius), (m, s) => m.Step(s), 3, criterion);
        return Sized(points, model.ToShape(), criterion, start.Reference, (s, r) => (Sphere3D)s with { Radius = r }, s => ((Sphere3D)s).Radius);
    }

    /// <summary>Cylinder; a start spares the search for one.</summary>
    public static FitResult Cylinder(double[] points, Criterion criterion, Cylinder3D? near = null)
    {
        var start = LeastSquares.Cylinder(points, near);
        return Starts(points, (Cylinder3D)start.Shape, start).Select(s =>
        {
            var model = Round(points, CylinderModel.From(s), (m, d) => m.Step(d), 4, criterion);
            var shape = (Cylinder3D)model.ToShape();
            shape = shape with { Point = shape.AxisLine.Project(start.Reference) };
            return Sized(points, shape, criterion, start.Reference, (c, r) => (Cylinder3D)c with { Radius = r }, c => ((Cylinder3D)c).Radius);
        }).MinBy(fit => Merit(fit, criterion))!;
    }

    /// <summary>
    /// The least-squares cylinder, and for point sets of moderate size eight tilted by the form error: circumscribed and inscribed cylinders have
    /// several local optima close together.
    /// </summary>
    private static IEnumerable<Cylinder3D> Starts(double[] points, Cylinder3D cylinder, FitResult fit)
    {
        yield return cylinder;
        if (fit.Points > 20_000)
        {
            yield break;
        }

        var frame = Frames.Along(cylinder.Point, cylinder.Axis);
        var reach = Lever(points, CylinderModel.From(cylinder));
        for (var k = 0; k < 8; k++)
        {
            var (s, c) = Math.SinCos(k * Math.PI / 4);
            var tilted = Frames.Tilted(frame, fit.Form / reach * c, fit.Form / reach * s, Vector3D.Zero);
            yield return cylinder with { Axis = tilted.Rotate(Vector3D.UnitZ) };
        }
    }

    private static double Merit(FitResult fit, Criterion criterion) => criterion switch
    {
        Criterion.MinimumCircumscribed => ((Cylinder3D)fit.Shape).Radius,
        Criterion.MaximumInscribed => -((Cylinder3D)fit.Shape).Radius,
        _ => fit.Form,
    };

    /// <summary>Straight line in a known plane, minimum zone.</summary>
    public static FitResult MinimumZoneLine(double[] points, Vector3D normal)
    {
        var start = LeastSquares.LineInPlane(points, normal);
        var line = (Line3D)start.Shape;
        var n = normal.Normalized();
        var across = n.Cross(line.Direction).Normalized();
        var flat = LeastSquares.Project(points, new(line.Point, n));

        // The line is a plane that may turn about the normal only: local x along the line, z across it.
        var frame = RigidTransform.FromAxes(line.Direction, across.Cross(line.Direction), across, line.Point);
        var model = Improve(flat, new PlaneModel(frame), (m, s) => m.Step([0, s[1], 0]), [1], true, true, Span);
        across = ((Plane3D)model.ToShape()).Normal;
        var residuals = LeastSquares.Residuals(flat, new Plane3D(line.Point, across));
        var point = line.Point + (0.5 * (residuals.Max() + residuals.Min()) * across);
        var middle = new Plane3D(point, across);
        return new(new Line3D(point, across.Cross(n).Normalized()), Criterion.MinimumZone, LeastSquares.Residuals(flat, middle), residuals.Max() - residuals.Min(), null, start.Reference, 0);
    }

    /// <summary>Straight line in space, minimum zone: the axis of the smallest cylinder that contains the points.</summary>
    public static FitResult MinimumZoneLine(double[] points)
    {
        var start = LeastSquares.Line(points);
        var line = (Line3D)start.Shape;
        var model = Improve(points, new CylinderModel(Frames.Along(line.Point, line.Direction), 0), (m, s) => m.Step([s[0], s[1], s[2], s[3], 0]), [0, 1, 2, 3], true, false, Top);
        var axis = (Cylinder3D)model.ToShape();
        var shape = new Line3D(axis.AxisLine.Project(start.Reference), axis.Axis);
        var residuals = LeastSquares.Residuals(points, shape);
        return new(shape, Criterion.MinimumZone, residuals, 2 * residuals.Max(), null, start.Reference, 0);
    }

    private static double Span(double[] d) => d.Max() - d.Min();

    private static double Top(double[] d) => d.Max();

    private static TModel Round<TModel>(double[] points, TModel start, Func<TModel, double[], TModel> step, int free, Criterion criterion)
        where TModel : struct, IShapeModel
    {
        var used = Enumerable.Range(0, free).ToArray();
        TModel Move(TModel m, double[] s) => step(m, [.. s.Take(free), 0]);
        return criterion switch
        {
            Criterion.MinimumZone => Improve(points, start, Move, used, true, true, Span),
            Criterion.MinimumCircumscribed => Improve(points, start, Move, used, true, false, Top),
            Criterion.MaximumInscribed => Improve(points, start, Move, used, false, true, d => -d.Min()),
            _ => throw new BadInputException($"method: {criterion} is not defined for this type."),
        };
    }

    /// <summary>Sequential linear programming over the named parameters until the goal stops falling.</summary>
    private static TModel Improve<TModel>(
        double[] points, TModel start, Func<TModel, double[], TModel> step, int[] used, bool upper, bool lower, Func<double[], double> goal)
        where TModel : struct, IShapeModel
    {
        var n = points.Length / 3;
        var model = start;
        var distances = new double[n];
        // An extra column for the size when both sides bind: it centres the zone, so that the greatest distance is half its width.
        var centred = upper && lower;
        var m = used.Length + (centred ? 1 : 0);
        var gradients = new double[n * m];
        var lever = Lever(points, model);
        Linearise(points, model, used, centred, lever, distances, gradients);
        var best = goal(distances);
        var trust = Math.Max(10 * (distances.Max() - distances.Min()), 1e-12 * lever);
        for (var i = 0; i < MostSteps && trust > 1e-14 * lever; i++)
        {
            if (ChebyshevProgram.Solve(distances, gradients, m, trust, upper, lower) is not var (delta, _))
            {
                return model;
            }

            var full = new double[TModel.Count];
            for (var k = 0; k < used.Length; k++)
            {
                full[used[k]] = delta[k] / Scale(model, used[k], lever);
            }

            var next = step(model, full);
            var trial = new double[n];
            var nextGradients = new double[n * m];
            Linearise(points, next, used, centred, lever, trial, nextGradients);
            var value = goal(trial);
            if (value < best)
            {
                (model, best, distances, gradients) = (next, value, trial, nextGradients);
            }
            else
            {
                trust = 0.5 * Math.Min(trust, delta.Take(used.Length).Max(Math.Abs));
            }
        }

        return model;
    }

    /// <summary>Tilts are scaled by the reach of the points, so that one trust radius in mm serves all parameters.</summary>
    private static double Scale<TModel>(TModel model, int parameter, double lever)
        where TModel : struct, IShapeModel => parameter >= FirstTilt(model) ? lever : 1;

    private static int FirstTilt<TModel>(TModel model)
        where TModel : struct, IShapeModel => model switch { PlaneModel => 1, CylinderModel => 2, _ => int.MaxValue };

    private static double Lever<TModel>(double[] points, TModel model)
        where TModel : struct, IShapeModel
    {
        double most = 0;
        for (var i = 0; i < points.Length; i += 3)
        {
            most = Math.Max(most, (new Vector3D(points[i], points[i + 1], points[i + 2]) - model.Frame.Translation).LengthSquared);
        }

        return Math.Max(1e-9, Math.Sqrt(most));
    }

    private static void Linearise<TModel>(double[] points, TModel model, int[] used, bool centred, double lever, double[] distances, double[] gradients)
        where TModel : struct, IShapeModel
    {
        var m = used.Length + (centred ? 1 : 0);
        var inverse = model.Frame.Inverse();
        Span<double> g = stackalloc double[8];
        for (var i = 0; i < distances.Length; i++)
        {
            var p = inverse.Apply(new(points[3 * i], points[(3 * i) + 1], points[(3 * i) + 2]));
            distances[i] = model.Distance(p.X, p.Y, p.Z, g);
            for (var k = 0; k < used.Length; k++)
            {
                gradients[(i * m) + k] = g[used[k]] / Scale(model, used[k], lever);
            }

            if (centred)
            {
                gradients[(i * m) + m - 1] = -1;
            }
        }
    }

    private static FitResult Result(double[] points, Shape shape, Criterion criterion, Vector3D reference, double form) =>
        new(shape, criterion, LeastSquares.Residuals(points, shape), form, null, reference, 0);

    private static FitResult Sized(double[] points, Shape shape, Criterion criterion, Vector3D reference, Func<Shape, double, Shape> resize, Func<Shape, double> radius)
    {
        var residuals = LeastSquares.Residuals(points, shape);
        var (low, high) = (residuals.Min(), residuals.Max());
        var change = criterion switch
        {
            Criterion.MinimumCircumscribed => high,
            Criterion.MaximumInscribed => low,
            _ => 0.5 * (low + high),
        };
        return Result(points, resize(shape, radius(shape) + change), criterion, reference, high - low);
    }
}

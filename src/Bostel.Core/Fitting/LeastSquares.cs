using Bostel.Core.Geometry;
using Bostel.Core.Selecting;

namespace Bostel.Core.Fitting;

/// <summary>
/// Least-squares association of ideal features with points (3·N coordinates, mm). No start is needed; one may be given to save time. Parts
/// of the feature may be held, points may have weights. Accuracy: better than 1e-9 mm for well-determined data, also far from the origin
/// (all work is about the centroid). Source: Forbes, Least-squares best-fit geometric elements, NPL DITC 140/89 (1991).
/// </summary>
public static class LeastSquares
{
    /// <summary>Fits the shape of the named kind.</summary>
    /// <param name="kind">line, plane, circle, sphere, cylinder, cone, torus or slot.</param>
    /// <param name="points">3·N coordinates, mm.</param>
    /// <param name="known">A start, and what is held.</param>
    /// <param name="weights">N weights of 0 or more, proportional to 1/variance; null counts every point alike.</param>
    /// <exception cref="BadInputException">The kind cannot be fitted, or the points do not determine it.</exception>
    public static FitResult Fit(string kind, double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        known.Check(kind);
        return kind switch
        {
            "plane" => Plane(points, known, weights),
            "line" => known.Normal is null ? Line(points, known, weights) : LineInPlane(points, known, weights),
            "circle" => Circle(points, known, weights),
            "sphere" => Sphere(points, known, weights),
            "cylinder" => Cylinder(points, known, weights),
            "cone" => Cone(points, known, weights),
            "torus" => Torus(points, known, weights),
            "slot" => Slot(points, known, weights),
            _ => throw new BadInputException($"type: '{kind}' cannot be fitted."),
        };
    }

    /// <summary>Plane through the centroid, normal along the direction of least scatter.</summary>
    public static FitResult Plane(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        var c = PointSums.Require(points, known.Direction is null ? 3 : 1, weights);
        var normal = known.Direction?.Normalized() ?? LeastScatter(points, c, weights);
        var model = PlaneModel.From(new(c, normal));
        var (matrix, _, sum) = NormalEquations.Accumulate(points, weights, model);
        return Finish(points, weights, new FitRun<PlaneModel>(model, matrix, sum, 1), model.ToShape(), known, c);
    }

    /// <summary>Line in space through the centroid; the form is the diameter of the smallest cylinder about it.</summary>
    public static FitResult Line(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        var c = PointSums.Require(points, known.Direction is null ? 2 : 1, weights);
        var shape = new Line3D(c, known.Direction?.Normalized() ?? MostScatter(points, c, weights));
        var distances = PointBlocks.Distances(points, new CylinderModel(Frames.Along(c, shape.Direction), 0));
        var covariance = Lines.Covariance(points, weights, shape, distances, 2, known.Direction is null);
        return new(shape, Criterion.LeastSquares, distances, 2 * Used(distances, weights).High, covariance, c,
            1)
        { Fitted = known.Direction is null ? 4 : 2, Rejected = Rejected(weights) };
    }

    /// <summary>Line in a known plane: points are projected along the normal into the plane through the centroid.</summary>
    public static FitResult LineInPlane(double[] points, Known known, double[]? weights = null)
    {
        var normal = known.Normal!.Value.Normalized();
        var c = PointSums.Require(points, known.Direction is null ? 2 : 1, weights);
        var flat = PointSums.Project(points, new(c, normal));
        var direction = known.Direction is { } d ? d - (d.Dot(normal) * normal) : MostScatter(flat, c, weights);
        if (!(direction.Length > 1e-9))
        {
            throw new BadInputException("direction: the held direction stands on the plane of the line.");
        }

        var across = normal.Cross(direction).Normalized();
        var shape = new Line3D(c, direction.Normalized());
        var residuals = PointBlocks.Distances(flat, PlaneModel.From(new(c, across)));
        var covariance = Lines.Covariance(flat, weights, shape, residuals, 1, known.Direction is null);
        var (low, high) = Used(residuals, weights);
        return new(shape, Criterion.LeastSquares, residuals, high - low, covariance, c, 1)
        {
            Fitted = known.Direction is null ? 2 : 1,
            Rejected = Rejected(weights)
        };
    }

    /// <summary>Circle in the least-squares plane of the points, or in the plane with the given normal through the centroid.</summary>
    public static FitResult Circle(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        var c = PointSums.Require(
            points, known.Normal is null ? 3 : Math.Max(1, 3 - Held(known.Radius) - (known.On is null ? 0 : 2)), weights);
        var frame = Frames.Along(c, known.Normal ?? LeastScatter(points, c, weights));
        var plane = new Plane3D(c, frame.Rotate(Vector3D.UnitZ));
        var flat = PointSums.Project(points, plane);
        var best = Best(flat, weights, StartValues.Circles(flat, frame, plane, known), known, "circle");
        return Finish(flat, weights, best, best.Model.ToShape(), known, c);
    }

    /// <summary>
    /// Slot (obround) in the least-squares plane of the points, or in the plane with the given normal through the centroid.
    /// </summary>
    /// <exception cref="BadInputException">The points do not determine it: too few, or as wide as they are long.</exception>
    public static FitResult Slot(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        var c = PointSums.Require(points, 6, weights);
        var frame = Frames.Along(c, known.Normal ?? LeastScatter(points, c, weights));
        var plane = new Plane3D(c, frame.Rotate(Vector3D.UnitZ));
        var flat = PointSums.Project(points, plane);
        var best = Best(flat, weights, StartValues.Slots(flat, frame, plane, known), known, "slot");
        var slot = (Slot3D)best.Model.ToShape();
        return slot.Width > 0 && slot.Length > slot.Width * (1 + 1e-9)
            ? Finish(flat, weights, best, slot, known, c)
            : throw new BadInputException("The points do not determine a slot: they are as wide as they are long.");
    }

    /// <summary>Sphere.</summary>
    public static FitResult Sphere(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        var c = PointSums.Require(points, 4 - Held(known.Radius) - (known.On is null ? 0 : 2), weights);
        var best = Best(points, weights, StartValues.Spheres(points, c, known), known, "sphere");
        return Finish(points, weights, best, best.Model.ToShape(), known, c);
    }

    /// <summary>Cylinder; its point is the foot of the centroid on the axis.</summary>
    public static FitResult Cylinder(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        var c = PointSums.Require(
            points, 5 - Held(known.Radius) - (known.On is not null ? 4 : known.Direction is not null ? 2 : 0), weights);
        var best = Best(points, weights, StartValues.Cylinders(points, c, known), known, "cylinder");
        var axis = (Cylinder3D)best.Model.ToShape();
        return Finish(points, weights, best, axis with { Point = axis.AxisLine.Project(c) }, known, c);
    }

    /// <summary>Cone, opening from the apex toward the points.</summary>
    public static FitResult Cone(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        var c = PointSums.Require(
            points, 6 - Held(known.HalfAngle) - (known.On is not null ? 4 : known.Direction is not null ? 2 : 0), weights);
        var best = Best(points, weights, StartValues.Cones(points, c, known), known, "cone");
        var cone = (Cone3D)best.Model.ToShape();
        return cone.HalfAngle > 0 && cone.HalfAngle < Math.PI / 2
            ? Finish(points, weights, best, cone, known, c)
            : throw new BadInputException("The points do not determine a cone: the best one has no opening angle.");
    }

    /// <summary>Torus.</summary>
    public static FitResult Torus(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        var c = PointSums.Require(
            points, 7 - Held(known.Radius) - (known.On is not null ? 4 : known.Direction is not null ? 2 : 0), weights);
        var best = Best(points, weights, StartValues.Tori(points, c, known), known, "torus");
        return Finish(points, weights, best, best.Model.ToShape(), known, c);
    }

    private static int Held(double? part) => part is null ? 0 : 1;

    private static Vector3D LeastScatter(double[] points, Vector3D c, double[]? weights)
    {
        var (values, vectors) = PointSums.Scatter(points, c, weights);
        return values[1] <= 1e-18 * values[2] || values[2] == 0
            ? throw new BadInputException("The points lie on a line or in one place: they do not determine a plane.")
            : vectors[0];
    }

    private static Vector3D MostScatter(double[] points, Vector3D c, double[]? weights)
    {
        var (values, vectors) = PointSums.Scatter(points, c, weights);
        return values[2] == 0 ? throw new BadInputException("The points lie in one place: they do not determine a line.") : vectors[2];
    }

    /// <summary>Runs every start on few points, the best on all.</summary>
    private static FitRun<TModel> Best<TModel>(double[] points, double[]? weights, IEnumerable<TModel> starts, Known known, string kind)
        where TModel : struct, IShapeModel<TModel>
    {
        const int Few = 150, Some = 2000;
        var candidates = starts.ToList();
        var most = candidates.Count > 20 ? Few : Some;
        var (thin, thinWeights) = (PointSums.Thin(points, most), PointSums.ThinWeights(weights, most));
        var size = PointSums.Extent(thin, PointSums.Centroid(thin));
        FitRun<TModel>? best = null;
        foreach (var start in candidates)
        {
            try
            {
                var run = GaussNewton.Run(thin, thinWeights, start, known, size);
                if (double.IsFinite(run.SumOfSquares) && (best is null || run.SumOfSquares < best.Value.SumOfSquares * (1 - 1e-9)))
                {
                    best = run;
                }
            }
            catch (BadInputException)
            {
                // This start led nowhere; another may not.
            }
        }

        var found = best ?? throw new BadInputException($"The points do not determine a {kind}.");
        return thin.Length == points.Length ? found : GaussNewton.Run(points, weights, found.Model, known, size);
    }

    private static FitResult Finish<TModel>(
        double[] points, double[]? weights, FitRun<TModel> run, Shape shape, Known known, Vector3D reference)
        where TModel : struct, IShapeModel<TModel>
    {
        var residuals = PointBlocks.Distances(points, run.Model);
        var freedom = Freedom.Of(known, run.Model);
        var used = weights is null ? residuals.Length : weights.Count(w => w > 0);

        // Weights are relative: the variance is that of a point of mean weight.
        var mean = weights is null ? 1 : weights.Sum() / used;
        var variance = used > freedom.Count ? run.SumOfSquares / mean / (used - freedom.Count) : 0;
        var inverse = freedom.Count == 0
            ? new double[0, 0]
            : LinearSolve.Inverse(freedom.Reduce(run.Matrix))
                ?? throw new BadInputException($"The points do not determine a {shape.Kind}: at least one of its parameters stays free.");
        var covariance = freedom.Expand(inverse);
        for (var r = 0; r < covariance.GetLength(0); r++)
        {
            for (var c = 0; c < covariance.GetLength(1); c++)
            {
                covariance[r, c] *= variance * mean;
            }
        }

        var (low, high) = Used(residuals, weights);
        return new(shape, Criterion.LeastSquares, residuals, high - low, covariance, reference, run.Iterations)
        {
            Fitted = freedom.Count,
            Frame = run.Model.Frame,
            Scatter = Math.Sqrt(variance),
            Rejected = Rejected(weights),
        };
    }

    private static int[] Rejected(double[]? weights) =>
        weights is null ? [] : [.. Enumerable.Range(0, weights.Length).Where(i => weights[i] == 0)];

    private static (double Low, double High) Used(double[] residuals, double[]? weights) =>
        PointSums.Range(weights is null ? residuals : [.. residuals.Where((_, i) => weights[i] > 0)]);
}

using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>
/// Least-squares association of ideal features with points (3·N coordinates, mm). No start is needed; one may be given to save time. Parts
/// of the feature may be held, points may have weights. Accuracy: better than 1e-9 mm for well-determined data, also far from the origin
/// (all work is about the centroid). Source: Forbes, Least-squares best-fit geometric elements, NPL DITC 140/89 (1991).
/// </summary>
public static class LeastSquares
{
    /// <summary>Fits the shape of the named kind, as <see cref="Try"/> does.</summary>
    /// <exception cref="UndeterminedException">The points do not determine it.</exception>
    public static FitResult Fit(string kind, double[] points, Known? known = null, double[]? weights = null) =>
        Try(kind, points, known, weights).OrThrow();

    /// <summary>Fits the shape of the named kind, or says why the points do not determine it.</summary>
    /// <param name="kind">line, plane, circle, sphere, cylinder, cone, torus or slot.</param>
    /// <param name="points">3·N coordinates, mm.</param>
    /// <param name="known">A start, and what is held.</param>
    /// <param name="weights">N weights of 0 or more, proportional to 1/variance; null counts every point alike.</param>
    /// <exception cref="BadInputException">The kind cannot be fitted, or what is held contradicts itself.</exception>
    public static FitAttempt Try(string kind, double[] points, Known? known = null, double[]? weights = null)
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
    public static FitAttempt Plane(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        if (!PointSums.Enough(points, known.Direction is null ? 3 : 1, weights, out var c, out var tooFew))
        {
            return tooFew;
        }

        if ((known.Direction?.Normalized() ?? LeastScatter(points, c, weights)) is not { } normal)
        {
            return NoPlane;
        }

        var model = PlaneModel.From(new(c, normal));
        var sums = NormalEquations.Accumulate(points, weights, model);
        return Finish(
            points, weights, new FitRun<PlaneModel>(model, sums.Matrix(), sums.SumOfSquares, 1, FitEnding.Converged), model.ToShape(),
            known, c);
    }

    /// <summary>Line in space through the centroid; the form is the diameter of the smallest cylinder about it.</summary>
    public static FitAttempt Line(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        if (!PointSums.Enough(points, known.Direction is null ? 2 : 1, weights, out var c, out var tooFew))
        {
            return tooFew;
        }

        if ((known.Direction?.Normalized() ?? MostScatter(points, c, weights)) is not { } along)
        {
            return NoLine;
        }

        var shape = new Line3D(c, along);
        var distances = PointBlocks.Distances(points, new CylinderModel(Frames.Along(c, shape.Direction), 0));
        var covariance = Lines.Covariance(points, weights, shape, distances, 2, known.Direction is null);
        return new FitResult(shape, Criterion.LeastSquares, distances, 2 * Used(distances, weights).High, covariance, c, 1)
        {
            Fitted = known.Direction is null ? 4 : 2,
            Rejected = Rejected(weights),
        };
    }

    /// <summary>Line in a known plane: points are projected along the normal into the plane through the centroid.</summary>
    public static FitAttempt LineInPlane(double[] points, Known known, double[]? weights = null)
    {
        var normal = known.Normal!.Value.Normalized();
        if (!PointSums.Enough(points, known.Direction is null ? 2 : 1, weights, out var c, out var tooFew))
        {
            return tooFew;
        }

        var flat = PointSums.Project(points, new(c, normal));
        if ((known.Direction is { } d ? d - (d.Dot(normal) * normal) : MostScatter(flat, c, weights)) is not { } direction)
        {
            return NoLine;
        }

        if (!(direction.Length > 1e-9))
        {
            throw new BadInputException("direction: the held direction stands on the plane of the line.");
        }

        var across = normal.Cross(direction).Normalized();
        var shape = new Line3D(c, direction.Normalized());
        var residuals = PointBlocks.Distances(flat, PlaneModel.From(new(c, across)));
        var covariance = Lines.Covariance(flat, weights, shape, residuals, 1, known.Direction is null);
        var (low, high) = Used(residuals, weights);
        return new FitResult(shape, Criterion.LeastSquares, residuals, high - low, covariance, c, 1)
        {
            Fitted = known.Direction is null ? 2 : 1,
            Rejected = Rejected(weights),
        };
    }

    /// <summary>Circle in the least-squares plane of the points, or in the plane with the given normal through the centroid.</summary>
    public static FitAttempt Circle(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        var least = known.Normal is null ? 3 : Math.Max(1, 3 - Held(known.Radius) - (known.On is null ? 0 : 2));
        if (!PointSums.Enough(points, least, weights, out var c, out var tooFew))
        {
            return tooFew;
        }

        if ((known.Normal ?? LeastScatter(points, c, weights)) is not { } normal)
        {
            return NoPlane;
        }

        var frame = Frames.Along(c, normal);
        var plane = new Plane3D(c, frame.Rotate(Vector3D.UnitZ));
        var flat = PointSums.Project(points, plane);
        return Best(flat, weights, StartValues.Circles(flat, frame, plane, known), known) is { } best
            ? Finish(flat, weights, best, best.Model.ToShape(), known, c)
            : FitAttempt.Failed("The points lie on a line or in one place: they do not determine a circle.");
    }

    /// <summary>
    /// Slot (obround) in the least-squares plane of the points, or in the plane with the given normal through the centroid.
    /// </summary>
    public static FitAttempt Slot(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        if (!PointSums.Enough(points, 6, weights, out var c, out var tooFew))
        {
            return tooFew;
        }

        if ((known.Normal ?? LeastScatter(points, c, weights)) is not { } normal)
        {
            return NoPlane;
        }

        var frame = Frames.Along(c, normal);
        var plane = new Plane3D(c, frame.Rotate(Vector3D.UnitZ));
        var flat = PointSums.Project(points, plane);
        return Best(flat, weights, StartValues.Slots(flat, frame, plane, known), known) is { } best
            && best.Model.ToShape() is Slot3D slot && slot.Width > 0 && slot.Length > slot.Width * (1 + 1e-9)
            ? Finish(flat, weights, best, slot, known, c)
            : FitAttempt.Failed("The points do not determine a slot: they are as wide as they are long.");
    }

    /// <summary>Sphere.</summary>
    public static FitAttempt Sphere(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        if (!PointSums.Enough(points, 4 - Held(known.Radius) - (known.On is null ? 0 : 2), weights, out var c, out var tooFew))
        {
            return tooFew;
        }

        return Best(points, weights, StartValues.Spheres(points, c, known), known) is { } best
            ? Finish(points, weights, best, best.Model.ToShape(), known, c)
            : FitAttempt.Failed("The points lie in a plane: they do not determine a sphere.");
    }

    /// <summary>Cylinder; its point is the foot of the centroid on the axis.</summary>
    public static FitAttempt Cylinder(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        var least = 5 - Held(known.Radius) - (known.On is not null ? 4 : known.Direction is not null ? 2 : 0);
        if (!PointSums.Enough(points, least, weights, out var c, out var tooFew))
        {
            return tooFew;
        }

        return Best(points, weights, StartValues.Cylinders(points, c, known), known) is { } best
            && best.Model.ToShape() is Cylinder3D axis
            ? Finish(points, weights, best, axis with { Point = axis.AxisLine.Project(c) }, known, c)
            : FitAttempt.Failed("The points do not determine a cylinder.");
    }

    /// <summary>Cone, opening from the apex toward the points.</summary>
    public static FitAttempt Cone(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        var least = 6 - Held(known.HalfAngle) - (known.On is not null ? 4 : known.Direction is not null ? 2 : 0);
        if (!PointSums.Enough(points, least, weights, out var c, out var tooFew))
        {
            return tooFew;
        }

        return Best(points, weights, StartValues.Cones(points, c, known), known) is { } best
            && best.Model.ToShape() is Cone3D { HalfAngle: > 0 and < Math.PI / 2 } cone
            ? Finish(points, weights, best, cone, known, c)
            : FitAttempt.Failed("The points do not determine a cone: the best one has no opening angle.");
    }

    /// <summary>Torus.</summary>
    public static FitAttempt Torus(double[] points, Known? known = null, double[]? weights = null)
    {
        known ??= Known.Nothing;
        var least = 7 - Held(known.Radius) - (known.On is not null ? 4 : known.Direction is not null ? 2 : 0);
        if (!PointSums.Enough(points, least, weights, out var c, out var tooFew))
        {
            return tooFew;
        }

        return Best(points, weights, StartValues.Tori(points, c, known), known) is { } best
            ? Finish(points, weights, best, best.Model.ToShape(), known, c)
            : FitAttempt.Failed("The points do not determine a torus.");
    }

    private static int Held(double? part) => part is null ? 0 : 1;

    private static FitAttempt NoPlane =>
        FitAttempt.Failed("The points lie on a line or in one place: they do not determine a plane.");

    private static FitAttempt NoLine => FitAttempt.Failed("The points lie in one place: they do not determine a line.");

    /// <summary>Null for points on a line.</summary>
    private static Vector3D? LeastScatter(double[] points, Vector3D c, double[]? weights)
    {
        var (values, vectors) = PointSums.Scatter(points, c, weights);
        return values[1] <= 1e-18 * values[2] || values[2] == 0 ? null : vectors[0];
    }

    /// <summary>Null for points in one place.</summary>
    private static Vector3D? MostScatter(double[] points, Vector3D c, double[]? weights)
    {
        var (values, vectors) = PointSums.Scatter(points, c, weights);
        return values[2] == 0 ? null : vectors[2];
    }

    /// <summary>Runs every start on some of the points, the best on all; null when none leads to a fit.</summary>
    private static FitRun<TModel>? Best<TModel>(double[] points, double[]? weights, IEnumerable<TModel> starts, Known known)
        where TModel : struct, IShapeModel<TModel>
    {
        // Enough points to rank starts by; with many starts fewer, or ranking takes longer than the fit.
        const int ForManyStarts = 150, ForFewStarts = 2000, ManyStarts = 20;
        var candidates = starts.ToList();
        var most = candidates.Count > ManyStarts ? ForManyStarts : ForFewStarts;
        var (thin, thinWeights) = (PointSums.Thin(points, most), PointSums.ThinWeights(weights, most));
        var size = PointSums.Extent(thin, PointSums.Centroid(thin));
        FitRun<TModel>? best = null;
        foreach (var start in candidates)
        {
            var run = GaussNewton.Run(thin, thinWeights, start, known, size);
            if (run.Found && (best is null || run.SumOfSquares < best.Value.SumOfSquares * (1 - 1e-9)))
            {
                best = run;
            }
        }

        var found = best is null || thin.Length == points.Length
            ? best
            : GaussNewton.Run(points, weights, best.Value.Model, known, size);
        return found is { Found: true } ? found : null;
    }

    private static FitAttempt Finish<TModel>(
        double[] points, double[]? weights, FitRun<TModel> run, Shape shape, Known known, Vector3D reference)
        where TModel : struct, IShapeModel<TModel>
    {
        var residuals = PointBlocks.Distances(points, run.Model);
        var freedom = Freedom.Of(known, run.Model);
        var used = weights is null ? residuals.Length : weights.Count(w => w > 0);

        // Weights are relative: the variance is that of a point of mean weight.
        var mean = weights is null ? 1 : weights.Sum() / used;
        var variance = used > freedom.Count ? run.SumOfSquares / mean / (used - freedom.Count) : 0;
        if ((freedom.Count == 0 ? new double[0, 0] : LinearSolve.Inverse(freedom.Reduce(run.Matrix))) is not { } inverse)
        {
            return FitAttempt.Failed($"The points do not determine a {shape.Kind}: at least one of its parameters stays free.");
        }

        var covariance = freedom.Expand(inverse);
        for (var r = 0; r < covariance.GetLength(0); r++)
        {
            for (var c = 0; c < covariance.GetLength(1); c++)
            {
                covariance[r, c] *= variance * mean;
            }
        }

        var (low, high) = Used(residuals, weights);
        return new FitResult(shape, Criterion.LeastSquares, residuals, high - low, covariance, reference, run.Iterations)
        {
            Ending = run.Ending,
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

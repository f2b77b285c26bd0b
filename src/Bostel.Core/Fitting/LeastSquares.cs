using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>
/// Least-squares association of ideal features with points (3·N coordinates, mm). No start is needed; one may be given to save time.
/// Accuracy: better than 1e-9 mm for well-determined data, also far from the origin (all work is about the centroid).
/// Source: Forbes, Least-squares best-fit geometric elements, NPL DITC 140/89 (1991).
/// </summary>
public static class LeastSquares
{
    /// <summary>Plane through the centroid, normal along the direction of least scatter.</summary>
    public static FitResult Plane(double[] points)
    {
        var c = Require(points, 3);
        var (values, vectors) = Scatter(points, c);
        if (values[1] <= 1e-18 * values[2] || values[2] == 0)
        {
            throw new BadInputException("The points lie on a line or in one place: they do not determine a plane.");
        }

        var shape = new Plane3D(c, vectors[0]);
        var model = PlaneModel.From(shape);
        var (matrix, _, sum) = NormalEquations.Accumulate(points, model);
        return Finish(points, shape, matrix, sum, c, 1);
    }

    /// <summary>Line in space through the centroid; the form is the diameter of the smallest cylinder about it.</summary>
    public static FitResult Line(double[] points)
    {
        var c = Require(points, 2);
        var (values, vectors) = Scatter(points, c);
        if (values[2] == 0)
        {
            throw new BadInputException("The points lie in one place: they do not determine a line.");
        }

        var shape = new Line3D(c, vectors[2]);
        var residuals = Residuals(points, shape);
        return new(shape, Criterion.LeastSquares, residuals, 2 * residuals.Max(), null, c, 1);
    }

    /// <summary>Line in a known plane: points are projected along the normal into the plane through the centroid.</summary>
    public static FitResult LineInPlane(double[] points, Vector3D normal)
    {
        var c = Require(points, 2);
        var flat = Project(points, new(c, normal.Normalized()));
        var (values, vectors) = Scatter(flat, c);
        if (values[2] == 0)
        {
            throw new BadInputException("The points lie in one place: they do not determine a line.");
        }

        var across = normal.Normalized().Cross(vectors[2]).Normalized();
        var residuals = Residuals(flat, new Plane3D(c, across));
        return new(new Line3D(c, vectors[2]), Criterion.LeastSquares, residuals, residuals.Max() - residuals.Min(), null, c, 1);
    }

    /// <summary>Circle in the least-squares plane of the points, or in the plane with the given normal through the centroid.</summary>
    public static FitResult Circle(double[] points, Vector3D? normal = null)
    {
        var c = Require(points, 3);
        var frame = Frames.Along(c, normal ?? ((Plane3D)Plane(points).Shape).Normal);
        var flat = Project(points, new(c, frame.Rotate(Vector3D.UnitZ)));
        var start = Taubin(flat, frame);
        var size = Math.Max(1e-6, start.Radius);
        var run = GaussNewton.Run(flat, new CircleModel(frame with { Translation = start.Center }, start.Radius), (m, s) => m.Step(s), size);
        return Finish(flat, run.Model.ToShape(), run.Matrix, run.SumOfSquares, c, run.Iterations);
    }

    /// <summary>Slot (obround) in the least-squares plane of the points, or in the plane with the given normal through the centroid.</summary>
    /// <exception cref="BadInputException">The points do not determine it: too few, or as wide as they are long.</exception>
    public static FitResult Slot(double[] points, Vector3D? normal = null)
    {
        var c = Require(points, 6);
        var frame = Frames.Along(c, normal ?? ((Plane3D)Plane(points).Shape).Normal);
        var flat = Project(points, new(c, frame.Rotate(Vector3D.UnitZ)));
        var start = SlotStart.For(flat, frame);
        var run = GaussNewton.Run(flat, start, (m, s) => m.Step(s), Extent(flat));
        var slot = (Slot3D)run.Model.ToShape();
        return slot.Width > 0 && slot.Length > slot.Width * (1 + 1e-9)
            ? Finish(flat, slot, run.Matrix, run.SumOfSquares, c, run.Iterations)
            : throw new BadInputException("The points do not determine a slot: they are as wide as they are long.");
    }

    /// <summary>Sphere.</summary>
    public static FitResult Sphere(double[] points, Sphere3D? start = null)
    {
        var c = Require(points, 4);
        var local = Shifted(points, -c);
        var (center, radius) = start is null
            ? StartValues.Sphere(local) ?? throw new BadInputException("The points lie in a plane: they do not determine a sphere.")
            : (start.Center - c, start.Radius);
        var run = GaussNewton.Run(local, new SphereModel(center, radius), (m, s) => m.Step(s), radius);
        return Finish(points, run.Model.ToShape().Transformed(RigidTransform.FromTranslation(c)), run.Matrix, run.SumOfSquares, c, run.Iterations);
    }

    /// <summary>Cylinder; its point is the foot of the centroid on the axis.</summary>
    public static FitResult Cylinder(double[] points, Cylinder3D? start = null)
    {
        var c = Require(points, 5);
        var local = Shifted(points, -c);
        var starts = start is null
            ? StartValues.Round(local, cone: false).Take(6).Select(s => new Cylinder3D(s.Point, s.Axis, s.Radius))
            : [new(start.AxisLine.Project(c) - c, start.Axis, start.Radius)];
        var best = Best(local, starts, s => CylinderModel.From(s), (m, s) => m.Step(s), s => s.Radius, "cylinder");
        var axis = (Cylinder3D)best.Model.ToShape();
        var shape = new Cylinder3D(axis.AxisLine.Project(Vector3D.Zero) + c, axis.Axis, axis.Radius);
        return Finish(points, shape, best.Matrix, best.SumOfSquares, best.Model.Frame.Translation + c, best.Iterations);
    }

    /// <summary>Cone, opening from the apex toward the points.</summary>
    public static FitResult Cone(double[] points, Cone3D? start = null)
    {
        var c = Require(points, 6);
        var local = Shifted(points, -c);
        IEnumerable<ConeModel> starts = start is null
            ? StartValues.Round(local, cone: true).Where(s => Math.Abs(s.Slope) > 1e-4).Take(8).Select(s =>
                new ConeModel(Frames.Along(s.Point, s.Slope > 0 ? s.Axis : -s.Axis), Math.Atan(Math.Abs(s.Slope)), s.Radius))
            : [ConeAt(start, c)];
        var best = Best(local, starts, s => s, (m, s) => m.Step(s), _ => Extent(local), "cone");
        var cone = (Cone3D)best.Model.ToShape();
        if (!(cone.HalfAngle > 0 && cone.HalfAngle < Math.PI / 2))
        {
            throw new BadInputException("The points do not determine a cone: the best one has no opening angle.");
        }

        return Finish(points, cone.Transformed(RigidTransform.FromTranslation(c)), best.Matrix, best.SumOfSquares, best.Model.Frame.Translation + c, best.Iterations);
    }

    /// <summary>Torus.</summary>
    public static FitResult Torus(double[] points, Torus3D? start = null)
    {
        var c = Require(points, 7);
        var local = Shifted(points, -c);
        var starts = start is null
            ? StartValues.Torus(local)
            : [(Torus3D)start.Transformed(RigidTransform.FromTranslation(-c))];
        var best = Best(local, starts, t => new TorusModel(Frames.Along(t.Center, t.Axis), t.MajorRadius, t.MinorRadius), (m, s) => m.Step(s), t => t.MajorRadius, "torus");
        var shape = best.Model.ToShape().Transformed(RigidTransform.FromTranslation(c));
        return Finish(points, shape, best.Matrix, best.SumOfSquares, best.Model.Frame.Translation + c, best.Iterations);
    }

    /// <summary>Fits the shape of the named kind; a shape of that kind may serve as the start.</summary>
    /// <exception cref="BadInputException">The kind cannot be fitted, or the points do not determine it.</exception>
    public static FitResult Fit(string kind, double[] points, Shape? start = null) => kind switch
    {
        "plane" => Plane(points),
        "line" => Line(points),
        "circle" => Circle(points),
        "sphere" => Sphere(points, start as Sphere3D),
        "cylinder" => Cylinder(points, start as Cylinder3D),
        "cone" => Cone(points, start as Cone3D),
        "torus" => Torus(points, start as Torus3D),
        "slot" => Slot(points),
        _ => throw new BadInputException($"type: '{kind}' cannot be fitted."),
    };

    internal static Vector3D Centroid(double[] points)
    {
        double x = 0, y = 0, z = 0;
        var first = new Vector3D(points[0], points[1], points[2]);
        for (var i = 0; i < points.Length; i += 3)
        {
            x += points[i] - first.X;
            y += points[i + 1] - first.Y;
            z += points[i + 2] - first.Z;
        }

        return first + (new Vector3D(x, y, z) / (points.Length / 3));
    }

    internal static double[] Residuals(double[] points, Shape shape)
    {
        var residuals = new double[points.Length / 3];
        for (var i = 0; i < residuals.Length; i++)
        {
            residuals[i] = shape.Distance(new(points[3 * i], points[(3 * i) + 1], points[(3 * i) + 2]));
        }

        return residuals;
    }

    internal static double[] Project(double[] points, Plane3D plane)
    {
        var flat = new double[points.Length];
        for (var i = 0; i < points.Length; i += 3)
        {
            var p = plane.Project(new(points[i], points[i + 1], points[i + 2]));
            (flat[i], flat[i + 1], flat[i + 2]) = (p.X, p.Y, p.Z);
        }

        return flat;
    }

    private static Vector3D Require(double[] points, int least)
    {
        var n = points.Length / 3;
        return n < least ? throw new BadInputException($"{n} points are too few: at least {least} are needed.") : Centroid(points);
    }

    private static double[] Shifted(double[] points, Vector3D by)
    {
        var moved = new double[points.Length];
        for (var i = 0; i < points.Length; i += 3)
        {
            (moved[i], moved[i + 1], moved[i + 2]) = (points[i] + by.X, points[i + 1] + by.Y, points[i + 2] + by.Z);
        }

        return moved;
    }

    private static double Extent(double[] points)
    {
        double most = 0;
        foreach (var p in points)
        {
            most = Math.Max(most, Math.Abs(p));
        }

        return Math.Max(most, 1e-9);
    }

    private static (double[] Values, Vector3D[] Vectors) Scatter(double[] points, Vector3D c)
    {
        double xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;
        for (var i = 0; i < points.Length; i += 3)
        {
            var (x, y, z) = (points[i] - c.X, points[i + 1] - c.Y, points[i + 2] - c.Z);
            xx += x * x;
            xy += x * y;
            xz += x * z;
            yy += y * y;
            yz += y * z;
            zz += z * z;
        }

        return SymmetricEigen.Solve3(xx, xy, xz, yy, yz, zz);
    }

    private static Circle3D Taubin(double[] flat, RigidTransform frame)
    {
        var inverse = frame.Inverse();
        var n = flat.Length / 3;
        double mx = 0, my = 0;
        var local = new double[2 * n];
        for (var i = 0; i < n; i++)
        {
            var p = inverse.Apply(new(flat[3 * i], flat[(3 * i) + 1], flat[(3 * i) + 2]));
            (local[2 * i], local[(2 * i) + 1]) = (p.X, p.Y);
            mx += p.X / n;
            my += p.Y / n;
        }

        // Taubin 1991 in the Newton form of Chernov (Circular and Linear Regression, 2010, section 5.9).
        double mxx = 0, myy = 0, mxy = 0, mxz = 0, myz = 0, mzz = 0;
        for (var i = 0; i < n; i++)
        {
            var (x, y) = (local[2 * i] - mx, local[(2 * i) + 1] - my);
            var z = (x * x) + (y * y);
            mxx += x * x / n;
            myy += y * y / n;
            mxy += x * y / n;
            mxz += x * z / n;
            myz += y * z / n;
            mzz += z * z / n;
        }

        var mz = mxx + myy;
        var cov = (mxx * myy) - (mxy * mxy);
        if (cov <= 1e-20 * mz * mz)
        {
            throw new BadInputException("The points lie on a line or in one place: they do not determine a circle.");
        }

        var a3 = 4 * mz;
        var a2 = (-3 * mz * mz) - mzz;
        var a1 = (mzz * mz) + (4 * cov * mz) - (mxz * mxz) - (myz * myz) - (mz * mz * mz);
        var a0 = (mxz * mxz * myy) + (myz * myz * mxx) - (mzz * cov) - (2 * mxz * myz * mxy) + (mz * mz * cov);
        double eta = 0;
        for (var k = 0; k < 50; k++)
        {
            var value = a0 + (eta * (a1 + (eta * (a2 + (eta * a3)))));
            var slope = a1 + (eta * ((2 * a2) + (3 * a3 * eta)));
            var next = eta - (value / slope);
            if (!double.IsFinite(next) || next < 0 || Math.Abs(next - eta) < 1e-15 * Math.Abs(eta))
            {
                break;
            }

            eta = next;
        }

        var det = (eta * eta) - (eta * mz) + cov;
        var cx = ((mxz * (myy - eta)) - (myz * mxy)) / det / 2;
        var cy = ((myz * (mxx - eta)) - (mxz * mxy)) / det / 2;
        var radius = Math.Sqrt((cx * cx) + (cy * cy) + mz);
        return new(frame.Apply(new(cx + mx, cy + my, 0)), frame.Rotate(Vector3D.UnitZ), radius);
    }

    private static (TModel Model, double[,] Matrix, double SumOfSquares, int Iterations) Best<TStart, TModel>(
        double[] points, IEnumerable<TStart> starts, Func<TStart, TModel> model, Func<TModel, double[], TModel> step, Func<TStart, double> size, string kind)
        where TModel : struct, IShapeModel
    {
        var candidates = starts.ToList();
        var thin = StartValues.Thin(points, candidates.Count > 20 ? 150 : 2000);
        (TModel Model, double Sum)? best = null;
        foreach (var start in candidates)
        {
            try
            {
                var run = GaussNewton.Run(thin, model(start), step, size(start));
                if (double.IsFinite(run.SumOfSquares) && (best is null || run.SumOfSquares < best.Value.Sum * (1 - 1e-9)))
                {
                    best = (run.Model, run.SumOfSquares);
                }
            }
            catch (BadInputException)
            {
                // This start led nowhere; another may not.
            }
        }

        return best is null
            ? throw new BadInputException($"The points do not determine a {kind}.")
            : GaussNewton.Run(points, best.Value.Model, step, Extent(points));
    }

    private static ConeModel ConeAt(Cone3D start, Vector3D c)
    {
        var h = (c - start.Apex).Dot(start.Axis);
        return new(Frames.Along(start.Apex + (h * start.Axis) - c, start.Axis), start.HalfAngle, h * Math.Tan(start.HalfAngle));
    }

    private static FitResult Finish(double[] points, Shape shape, double[,] matrix, double sum, Vector3D reference, int iterations)
    {
        var residuals = Residuals(points, shape);
        var m = matrix.GetLength(0);
        var variance = residuals.Length > m ? sum / (residuals.Length - m) : 0;
        var covariance = LinearSolve.Inverse(matrix) ?? throw new BadInputException($"The points do not determine a {shape.Kind}: at least one of its parameters stays free.");
        for (var r = 0; r < m; r++)
        {
            for (var c = 0; c < m; c++)
            {
                covariance[r, c] *= variance;
            }
        }

        return new(shape, Criterion.LeastSquares, residuals, residuals.Max() - residuals.Min(), covariance, reference, iterations);
    }
}

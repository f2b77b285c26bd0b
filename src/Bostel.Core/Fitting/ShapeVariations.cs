using Bostel.Core.Geometry;

namespace Bostel.Core.Fitting;

/// <summary>Shapes that a fit might as well have given: one for each column of a root of its covariance.</summary>
internal static class ShapeVariations
{
    /// <param name="inflate">What correlated residuals make the standard deviations larger by.</param>
    /// <returns>Motions and sizes together; none for a shape that is not carried further.</returns>
    public static IReadOnlyList<Shape> Of(FitResult fit, double[,] covariance, double inflate)
    {
        var frame = fit.Frame;
        return fit.Shape switch
        {
            Plane3D => Along(new PlaneModel(frame), covariance, inflate),
            Cylinder3D s => Along(new CylinderModel(frame, s.Radius), covariance, inflate),
            Sphere3D s => Along(new SphereModel(s.Center, s.Radius), covariance, inflate),
            Cone3D s => Along(Cone(frame, s), covariance, inflate),
            Torus3D s => Along(new TorusModel(frame, s.MajorRadius, s.MinorRadius), covariance, inflate),
            Circle3D s => Along(new CircleModel(frame, s.Radius), covariance, inflate),
            _ => [],
        };
    }

    /// <summary>In the frame of the fit, whose z axis may run against the cone.</summary>
    private static ConeModel Cone(RigidTransform frame, Cone3D s)
    {
        var along = frame.Translation - s.Apex;
        var opens = frame.Rotate(Vector3D.UnitZ).Dot(s.Axis) < 0 ? -1 : 1;
        return new(frame, opens * s.HalfAngle, along.Dot(s.Axis) * Math.Tan(s.HalfAngle));
    }

    private static List<Shape> Along<TModel>(TModel model, double[,] covariance, double inflate)
        where TModel : struct, IShapeModel<TModel>
    {
        var (values, vectors) = SymmetricEigen.Solve(covariance);
        var found = new List<Shape>();
        for (var e = 0; e < values.Length; e++)
        {
            var sigma = inflate * Math.Sqrt(Math.Max(0, values[e]));
            var step = new double[values.Length];
            for (var r = 0; r < step.Length; r++)
            {
                step[r] = sigma * vectors[r, e];
            }

            found.Add(model.Step(step).ToShape());
        }

        return found;
    }
}

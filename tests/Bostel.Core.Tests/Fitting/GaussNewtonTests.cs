using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tests.Fitting;

public class GaussNewtonTests
{
    /// <summary>
    /// Starts up to two fifths off in everything lie beyond the reach of the linear model; damping must bring them home to the one minimum
    /// near the truth.
    /// </summary>
    [Theory]
    [InlineData("cylinder")]
    [InlineData("sphere")]
    [InlineData("cone")]
    [InlineData("torus")]
    public void FarStartsLeadToTheSameFeature(string kind)
    {
        var random = new Random(3);
        double Off(double size) => size * 0.4 * ((2 * random.NextDouble()) - 1);
        for (var k = 0; k < 100; k++)
        {
            var axis = new Vector3D(Off(1), Off(1), Off(1)).Normalized();
            var truth = FitShapes.Truth(kind, new(3, -2, 5), axis);
            var points = FitShapes.Points(truth, 1, 0.01, k, 400);
            var start = truth.Transformed(
                RigidTransform.FromTwist(new(Off(1), Off(1), Off(1)), new(Off(8), Off(8), Off(8)), new(3, -2, 5)));
            start = start switch
            {
                Cylinder3D c => c with { Radius = c.Radius + Off(c.Radius) },
                Sphere3D s => s with { Radius = s.Radius + Off(s.Radius) },
                Cone3D c => c with { HalfAngle = c.HalfAngle + Off(c.HalfAngle) },
                Torus3D t => t with { MajorRadius = t.MajorRadius + Off(t.MajorRadius), MinorRadius = t.MinorRadius + Off(t.MinorRadius) },
                _ => start,
            };
            var (near, far) =
                (LeastSquares.Fit(kind, points, new() { Start = truth }), LeastSquares.Fit(kind, points, new() { Start = start }));

            // One minimum: the steps end at 1e-13 of the size.
            FitShapes.AssertSame(near.Shape, far.Shape, 1e-9);
        }
    }
}

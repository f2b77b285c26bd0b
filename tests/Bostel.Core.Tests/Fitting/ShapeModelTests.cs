using System.Runtime.Intrinsics;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tests.Fitting;

/// <summary>
/// The linearised shapes behind the fits: their distances against the shapes', their derivatives against differences, their sums against
/// plain ones.
/// </summary>
public class ShapeModelTests
{
    private static readonly RigidTransform Frame =
        RigidTransform.FromAxisAngle(new(1, 0.4, -2), 1.3) with { Translation = new(50, -20, 30) };

    [Fact]
    public void APlaneIsLinearisedRight() => Check(PlaneModel.From((Plane3D)new Plane3D(Vector3D.Zero, Vector3D.UnitZ).Transformed(Frame)));

    [Fact]
    public void ASphereIsLinearisedRight() => Check(new SphereModel(Frame.Translation, 7));

    [Fact]
    public void ACylinderIsLinearisedRight() =>
        Check(CylinderModel.From((Cylinder3D)new Cylinder3D(Vector3D.Zero, Vector3D.UnitZ, 6).Transformed(Frame)));

    [Fact]
    public void AConeIsLinearisedRight() =>
        Check(ConeModel.From((Cone3D)new Cone3D(new(0, 0, -12), Vector3D.UnitZ, 0.5).Transformed(Frame), Frame.Translation));

    [Fact]
    public void ATorusIsLinearisedRight() =>
        Check(TorusModel.From((Torus3D)new Torus3D(Vector3D.Zero, Vector3D.UnitZ, 9, 2).Transformed(Frame)));

    [Fact]
    public void ACircleIsLinearisedRight() => Check(new CircleModel(Frame, 6), flat: true);

    [Fact]
    public void ASlotIsLinearisedRight() =>
        Check(SlotModel.From((Slot3D)new Slot3D(Vector3D.Zero, Vector3D.UnitZ, Vector3D.UnitX, 18, 8).Transformed(Frame)), flat: true);

    /// <summary>
    /// Sums over any number of points, with and without weights, also where the last block of four is not full and over several chunks.
    /// </summary>
    [Theory]
    [InlineData(5, false)]
    [InlineData(64, true)]
    [InlineData(131, true)]
    [InlineData(20_003, true)]
    public void NormalEquationsAreThePlainSums(int count, bool weighted)
    {
        var model = CylinderModel.From(new(new(1, 2, 3), new Vector3D(1, 1, 2).Normalized(), 5));
        var points = Around(count, 3);
        var random = new Random(count);
        var weights = weighted ? Enumerable.Range(0, count).Select(_ => random.NextDouble()).ToArray() : null;
        var sums = NormalEquations.Accumulate(points, weights, model);
        var matrix = sums.Matrix();
        var right = sums.Right;
        var (m, plainMatrix, plainRight, plainSquares) = (5, new double[5, 5], new double[5], 0.0);
        for (var i = 0; i < count; i++)
        {
            var (d, gradient) = Linear(model, Vector3D.At(points, i));
            var w = weights?[i] ?? 1;
            plainSquares += w * d * d;
            for (var r = 0; r < m; r++)
            {
                plainRight[r] += w * gradient[r] * d;
                for (var c = 0; c < m; c++)
                {
                    plainMatrix[r, c] += w * gradient[r] * gradient[c];
                }
            }
        }

        // Sums of n terms in another order: relative rounding of about n ulp of the largest sum.
        var tolerance = 1e-15 * count * plainMatrix.Cast<double>().Max(Math.Abs);
        Assert.Equal(plainSquares, sums.SumOfSquares, 1e-15 * count * plainSquares);
        for (var r = 0; r < m; r++)
        {
            Assert.Equal(plainRight[r], right[r], tolerance);
            for (var c = 0; c < m; c++)
            {
                Assert.Equal(plainMatrix[r, c], matrix[r, c], tolerance);
            }
        }
    }

    /// <summary>A fit that will not come near is given up; one that will is that of the plain search to the last bit.</summary>
    [Fact]
    public void OnlyAFitThatWillNotBeOfUseIsGivenUp()
    {
        var random = new Random(2);
        var sphere = Enumerable.Range(0, 300).SelectMany(_ =>
        {
            var d = new Vector3D(random.NextDouble() - 0.5, random.NextDouble() - 0.5, random.NextDouble() - 0.3).Normalized();
            return ((8 + (0.01 * (random.NextDouble() - 0.5))) * d).ToArray();
        }).ToArray();
        var start = new Sphere3D(new(1, -1, 0.5), 6);
        var plain = LeastSquares.Sphere(sphere, new() { Start = start }).OrThrow();
        Assert.Equal(plain.Shape, LeastSquares.Sphere(sphere, new() { Start = start, Useful = 0.01 }).OrThrow().Shape);
        Assert.Throws<UndeterminedException>(() => LeastSquares.Sphere(sphere, new() { Start = start, Useful = 0.0001 }).OrThrow());
        var wrong = new Cylinder3D(Vector3D.Zero, Vector3D.UnitZ, 6);
        Assert.Throws<UndeterminedException>(() => LeastSquares.Cylinder(sphere, new() { Start = wrong, Useful = 0.1 }).OrThrow());
    }

    [Theory]
    [InlineData(0.02)]
    [InlineData(0.3)]
    [InlineData(3.1)]
    [InlineData(6.28)]
    public void TheAlgebraicCircleIsExactOnExactArcs(double sweep)
    {
        double[] points = [.. Enumerable.Range(0, 50)
            .SelectMany(i => Frame.Apply(new(7 + (12 * Math.Cos(sweep * i / 49)), -4 + (12 * Math.Sin(sweep * i / 49)), 0)).ToArray())];
        var circle = TaubinCircle.Fit(points, Frame)!;

        // The shorter the arc, the more rounding (1e-14 of 60 mm) is magnified: by about 1/sweep².
        Assert.Equal(12, circle.Radius, 1e-11 / (sweep * sweep));
        Assert.Equal(0, Vector3D.Distance(Frame.Apply(new(7, -4, 0)), circle.Center), 1e-11 / (sweep * sweep));
        Assert.Null(
            TaubinCircle.Fit([.. Enumerable.Range(0, 9).SelectMany(i => Frame.Apply(new(i, 2 * i, 0)).ToArray())], Frame));
    }

    /// <param name="flat">Whether the model measures in its plane.</param>
    private static void Check<TModel>(TModel model, bool flat = false)
        where TModel : struct, IShapeModel<TModel>
    {
        const double Step = 1e-5;
        var shape = model.ToShape();
        var count = TModel.Parameters.Length;
        foreach (var local in Around(60, 11, flat).Chunk(3))
        {
            var p = Frame.Apply(new(local[0], local[1], local[2]));
            var (distance, gradient) = Linear(model, p);
            Assert.Equal(shape.Distance(p), distance, 1e-12 * 50);
            Assert.Equal(distance - 0.4, Linear(model.Grown(0.4), p).Distance, 1e-12 * 50);
            for (var k = 0; k < count; k++)
            {
                // Central differences leave h² times a third derivative, below 10 here, and rounding of 1e-14 over h.
                double At(double s)
                {
                    var parameters = new double[count];
                    parameters[k] = s;
                    return model.Step(parameters).ToShape().Distance(p);
                }

                Assert.Equal((At(Step) - At(-Step)) / (2 * Step), gradient[k], 3e-8);
            }
        }
    }

    private static (double Distance, double[] Gradient) Linear<TModel>(TModel model, Vector3D p)
        where TModel : struct, IShapeModel<TModel>
    {
        Span<Vector256<double>> gradient = stackalloc Vector256<double>[8];
        var local = model.Frame.Inverse().Apply(p);
        var distance = model.Distance(Vector256.Create(local.X), Vector256.Create(local.Y), Vector256.Create(local.Z), gradient);
        var values = new double[TModel.Parameters.Length];
        for (var k = 0; k < values.Length; k++)
        {
            values[k] = gradient[k][1];
        }

        return (distance[1], values);
    }

    /// <summary>Points about the origin, none near the axis, where distances have no derivative.</summary>
    private static double[] Around(int count, int seed, bool flat = false)
    {
        var random = new Random(seed);
        return [.. Enumerable.Range(0, count).SelectMany(_ =>
        {
            var (angle, r) = (2 * Math.PI * random.NextDouble(), 4 + (9 * random.NextDouble()));
            return new[] { r * Math.Cos(angle), r * Math.Sin(angle), flat ? 0 : (8 * random.NextDouble()) - 4 };
        })];
    }
}

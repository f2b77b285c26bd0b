using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using CsCheck;

namespace Bostel.Core.Tests.Fitting;

/// <summary>What must hold of fits beyond the reference cases: invariance, degenerate input, honest uncertainty.</summary>
public class FitBehaviourTests
{
    private static readonly Gen<Vector3D> Directions =
        Gen.Select(Gen.Double[-1, 1], Gen.Double[-1, 1], Gen.Double[-1, 1], (x, y, z) => new Vector3D(x, y, z)).Where(v => v.Length > 0.1);

    /// <summary>Turning and moving the points (to 10 m away) turns and moves the cylinder; the radius stays to 1e-8 mm.</summary>
    [Fact]
    public void ACylinderFollowsARigidMotion() => Gen.Select(Directions, Gen.Double[0, 6], Directions).Sample(
        (axis, angle, away) =>
        {
            var points = Arc(5, 200, 0.9, 0.01, seed: 4);
            var motion = RigidTransform.FromAxisAngle(axis, angle) with { Translation = 10_000 * away };
            var still = (Cylinder3D)LeastSquares.Cylinder(points).OrThrow().Shape;
            var moved = (Cylinder3D)LeastSquares.Cylinder(Moved(points, motion)).OrThrow().Shape;
            return Math.Abs(still.Radius - moved.Radius) < 1e-8 && moved.AxisLine.Distance(motion.Apply(still.Point)) < 1e-7
                && moved.Axis.LineAngleTo(motion.Rotate(still.Axis)) < 1e-8;
        }, iter: 40);

    [Fact]
    public void TheOrderOfThePointsDoesNotMatter()
    {
        var points = Arc(5, 300, 1, 0.01, seed: 8);
        var shuffled = points.Chunk(3).OrderBy(p => p[2]).SelectMany(p => p).ToArray();
        double RadiusOf(double[] of) => ((Cylinder3D)LeastSquares.Cylinder(of).OrThrow().Shape).Radius;
        Assert.Equal(RadiusOf(points), RadiusOf(shuffled), 1e-10);
    }

    public static TheoryData<string, double[]> Degenerate() => new()
    {
        { "plane", [0, 0, 0, 1, 1, 1, 2, 2, 2, 3, 3, 3] },
        { "plane", [0, 0, 0, 1, 0, 0] },
        { "circle", [0, 0, 0, 1, 1, 1, 2, 2, 2, 3, 3, 3] },
        { "sphere", [0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0, 2, 1, 0] },
        { "line", [1, 1, 1, 1, 1, 1] },
        { "cylinder", [0, 0, 0, 1, 0, 0, 0, 1, 0] },
    };

    [Theory]
    [MemberData(nameof(Degenerate))]
    public void PointsThatDetermineNothingGiveAClearError(string kind, double[] points) =>
        Assert.False(string.IsNullOrEmpty(Assert.Throws<UndeterminedException>(() => LeastSquares.Fit(kind, points)).Message));

    /// <summary>
    /// The stated ±2σ of the radius covers the truth about as often as it should, for full circles and for short arcs alike. With
    /// independent noise the share is binomial about 95.4 % (normal) : of 300 trials at least 91 % (4 standard deviations below).
    /// </summary>
    [Theory]
    [InlineData(1.0)]
    [InlineData(0.12)]
    public void TheStatedUncertaintyOfARadiusCoversTheTruth(double share)
    {
        var covered = 0;
        for (var seed = 0; seed < 300; seed++)
        {
            var fit = LeastSquares.Cylinder(
                Arc(20, 250, share, 0.02, seed), new() { Start = new Cylinder3D(new(0.1, 0, 0), Vector3D.UnitZ, 20.1) }).OrThrow();
            covered += Math.Abs(((Cylinder3D)fit.Shape).Radius - 20) <= 2 * Math.Sqrt(fit.Covariance![4, 4]) ? 1 : 0;
        }

        Assert.InRange(covered, 273, 300);
    }

    /// <summary>
    /// A minimum-zone plane against enumeration: the narrowest slab has a face of the hull on one side, or an edge on each.
    /// </summary>
    [Fact]
    public void TheMinimumZonePlaneIsTheNarrowestOfAllSlabs()
    {
        for (var seed = 0; seed < 10; seed++)
        {
            var random = new Random(seed);
            var points = Enumerable.Range(0, 14)
                .Select(_ => new Vector3D(10 * random.NextDouble(), 10 * random.NextDouble(), random.NextDouble())).ToArray();
            var found = ExtremalFit.MinimumZonePlane([.. points.SelectMany(p => p.ToArray())]).Form;
            Assert.Equal(Slabs(points).Min(n => Width(points, n)), found, 1e-8);
        }
    }

    private static IEnumerable<Vector3D> Slabs(Vector3D[] p)
    {
        for (var i = 0; i < p.Length; i++)
        {
            for (var j = i + 1; j < p.Length; j++)
            {
                for (var k = 0; k < p.Length; k++)
                {
                    if (k > j)
                    {
                        yield return (p[j] - p[i]).Cross(p[k] - p[i]).Normalized();
                    }

                    for (var l = k + 1; l < p.Length; l++)
                    {
                        yield return (p[j] - p[i]).Cross(p[l] - p[k]).Normalized();
                    }
                }
            }
        }
    }

    private static double Width(Vector3D[] p, Vector3D n) =>
        n.LengthSquared < 0.5 ? double.PositiveInfinity : p.Max(q => q.Dot(n)) - p.Min(q => q.Dot(n));

    private static double[] Arc(double radius, int count, double share, double noise, int seed)
    {
        var random = new Random(seed);
        double Normal() => Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
        return [.. Enumerable.Range(0, count).SelectMany(_ =>
        {
            var (s, c) = Math.SinCos(2 * Math.PI * share * random.NextDouble());
            var r = radius + (noise * Normal());
            return new[] { r * c, r * s, 3 * radius * random.NextDouble() };
        })];
    }

    private static double[] Moved(double[] points, RigidTransform motion) =>
        [.. points.Chunk(3).SelectMany(p => motion.Apply(Vector3D.FromArray(p)).ToArray())];
}

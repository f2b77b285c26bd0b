using Bostel.Core.Fitting;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tests.Fitting;

/// <summary>
/// Fits of anything at all: a clear refusal, or a feature of finite numbers that its own residuals bear out. Never another failure.
/// </summary>
public class FitFuzzTests
{
    public static TheoryData<string, string> Cases()
    {
        var cases = new TheoryData<string, string>();
        foreach (var kind in (string[])["line", "plane", "circle", "sphere", "cylinder", "cone", "torus", "slot"])
        {
            foreach (var cloud in (string[])["few", "doubled", "line", "plane", "grid", "far", "tiny", "huge", "not numbers", "noise"])
            {
                cases.Add(kind, cloud);
            }
        }

        return cases;
    }

    [Theory]
    [MemberData(nameof(Cases))]
    public void AnyPointsGiveAFeatureOrARefusal(string kind, string cloud)
    {
        for (var seed = 0; seed < 6; seed++)
        {
            var points = Cloud(cloud, new Random(seed));
            foreach (var criterion in Enum.GetValues<Criterion>())
            {
                FitResult fit;
                try
                {
                    fit = Association.Fit(kind, criterion, points,
                        new() { Normal = kind is "circle" or "slot" && seed % 2 == 0 ? Vector3D.UnitZ : null, Outward = Vector3D.UnitZ });
                }
                catch (BadInputException e)
                {
                    Assert.False(string.IsNullOrWhiteSpace(e.Message));
                    continue;
                }

                Assert.NotEqual("not numbers", cloud);
                Assert.All(Numbers(fit.Shape), n => Assert.True(double.IsFinite(n), $"{criterion}: {fit.Shape}"));
                Assert.True(double.IsFinite(fit.Form) && fit.Form >= 0, $"{criterion}: form {fit.Form}");

                // The residuals are the distances from the feature that is returned, to the rounding of the coordinates and of a large
                // radius.
                var scale = points.Max(Math.Abs) + Numbers(fit.Shape).Max(Math.Abs);
                if (kind is not ("circle" or "slot" or "line"))
                {
                    var distances = fit.Shape.Distances(points);
                    for (var i = 0; i < distances.Length; i++)
                    {
                        Assert.True(Math.Abs(Math.Abs(distances[i]) - Math.Abs(fit.Residuals[i])) <= 1e-9 * Math.Max(1, scale),
                            $"{criterion}: {fit.Shape}: {distances[i]:R} and {fit.Residuals[i]:R}");
                    }
                }
            }
        }
    }

    private static double[] Cloud(string kind, Random random)
    {
        double Next() => (2 * random.NextDouble()) - 1;
        Vector3D Any() => new(Next(), Next(), Next());
        var (origin, along) = (10 * Any(), Any().Normalized());
        var across = along.Perpendicular();
        IEnumerable<Vector3D> points = kind switch
        {
            "few" => Enumerable.Range(0, random.Next(1, 8)).Select(_ => 5 * Any()),
            "doubled" => Enumerable.Repeat(origin, 5).Concat(Enumerable.Repeat(origin + along, random.Next(1, 4))),
            "line" => Enumerable.Range(0, 20).Select(_ => origin + (7 * Next() * along)),
            "plane" => Enumerable.Range(0, 40).Select(_ => origin + (7 * Next() * along) + (7 * Next() * across)),
            "grid" => Enumerable.Range(0, 27).Select(i => new Vector3D(i % 3, i / 3 % 3, i / 9)),
            "far" => Enumerable.Range(0, 30).Select(_ => (1e7 * along) + Any()),
            "tiny" => Enumerable.Range(0, 30).Select(_ => 1e-9 * Any()),
            "huge" => Enumerable.Range(0, 30).Select(_ => 1e12 * Any()),
            "not numbers" => Enumerable.Range(0, 30).Select(i => i == 11 ? new Vector3D(double.NaN, 0, double.PositiveInfinity) : Any()),
            _ => Enumerable.Range(0, 60).Select(_ => 20 * Any()),
        };
        return [.. points.SelectMany(p => p.ToArray())];
    }

    private static double[] Numbers(Shape shape) => shape switch
    {
        Line3D s => [.. s.Point.ToArray(), .. s.Direction.ToArray()],
        Plane3D s => [.. s.Point.ToArray(), .. s.Normal.ToArray()],
        Circle3D s => [.. s.Center.ToArray(), .. s.Normal.ToArray(), s.Radius],
        Sphere3D s => [.. s.Center.ToArray(), s.Radius],
        Cylinder3D s => [.. s.Point.ToArray(), .. s.Axis.ToArray(), s.Radius],
        Cone3D s => [.. s.Apex.ToArray(), .. s.Axis.ToArray(), s.HalfAngle],
        Torus3D s => [.. s.Center.ToArray(), .. s.Axis.ToArray(), s.MajorRadius, s.MinorRadius],
        Slot3D s => [.. s.Center.ToArray(), .. s.Direction.ToArray(), s.Length, s.Width],
        _ => [double.NaN],
    };
}

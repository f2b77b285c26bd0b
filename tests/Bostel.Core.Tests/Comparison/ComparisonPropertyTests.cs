using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests.Comparison;

/// <summary>
/// What must hold for every comparison, wherever the part lies, however large it is and in whatever order its points come.
/// </summary>
public class ComparisonPropertyTests
{
    private static readonly RigidTransform[] Motions =
    [
        RigidTransform.FromTranslation(new(1000, -2000, 500)),
        RigidTransform.FromAxisAngle(new(1, 2, -3), 2.1) with { Translation = new(-30, 40, 7) },
        RigidTransform.FromAxisAngle(new(-1, 0.2, 0.5), -0.7) with { Translation = new(3000, 0, -4000) },
    ];

    private static readonly TriangleMesh Nominal = Shapes.Sphere(20, 3);
    private static readonly TriangleMesh Scan = Shapes.Noisy(Shapes.Sphere(20.05, 4), 0.03, 5);

    /// <summary>Scan and nominal moved together: the same deviations. Coordinates of 5000 mm are good to about 1e-12.</summary>
    [Fact]
    public void DeviationsDoNotDependOnWhereThePartLies()
    {
        var expected = Deviations(Nominal, Scan, RigidTransform.Identity);
        foreach (var motion in Motions)
        {
            Same(expected, Deviations(Nominal.Transformed(motion), Scan, motion), 1e-10);
            Same(expected, Deviations(Nominal, Scan.Transformed(motion), motion.Inverse()), 1e-10);
        }
    }

    /// <summary>A part k times as large deviates k times as much.</summary>
    [Theory]
    [InlineData(0.01)]
    [InlineData(37)]
    public void DeviationsGrowWithThePart(double factor)
    {
        var expected = Deviations(Nominal, Scan, RigidTransform.Identity).Select(d => factor * d).ToArray();
        Same(expected, Deviations(Nominal.Scaled(factor), Scan.Scaled(factor), RigidTransform.Identity, 5 * factor), 1e-11 * factor);
    }

    [Fact]
    public void TheOrderOfTrianglesAndOfPointsChangesNothing()
    {
        var expected = Deviations(Nominal, Scan, RigidTransform.Identity);
        var random = new Random(11);
        var triangles = Enumerable.Range(0, Nominal.TriangleCount).ToArray();
        random.Shuffle(triangles);
        var reordered =
            new TriangleMesh(Nominal.Coordinates,
                [.. triangles.SelectMany(
                t => new[] { Nominal.Indices[(3 * t) + 1], Nominal.Indices[(3 * t) + 2], Nominal.Indices[3 * t] })]);
        Same(expected, Deviations(reordered, Scan, RigidTransform.Identity), 1e-12);

        var order = Enumerable.Range(0, Scan.VertexCount).ToArray();
        random.Shuffle(order);
        var place = new int[order.Length];
        for (var i = 0; i < order.Length; i++)
        {
            place[order[i]] = i;
        }

        var shuffled = new TriangleMesh([.. order.SelectMany(v => Scan.Vertex(v).ToArray())], [.. Scan.Indices.Select(v => place[v])]);
        var values = Deviations(Nominal, shuffled, RigidTransform.Identity);
        Same(expected, [.. place.Select(p => values[p])], 1e-12);
    }

    /// <summary>Turned inside out, inside becomes outside. The angle limit is that of the search: both normals turn.</summary>
    [Fact]
    public void ThePartInsideOutDeviatesTheOtherWay()
    {
        static TriangleMesh Turned(TriangleMesh mesh) =>
            new(mesh.Coordinates, [.. mesh.Indices.Chunk(3).SelectMany(t => new[] { t[0], t[2], t[1] })]);
        Same([.. Deviations(Nominal, Scan, RigidTransform.Identity).Select(d => -d)],
            Deviations(Turned(Nominal), Turned(Scan), RigidTransform.Identity), 1e-12);
    }

    /// <summary>A nominal split finer where it is flat is the same surface.</summary>
    [Fact]
    public void AFinerMeshOfTheSameFacesGivesTheSameDeviations()
    {
        var scan = Shapes.Noisy(Shapes.Cube(10, 7), 0.02, 2);
        var expected = Deviations(Shapes.Cube(10, 1), scan, RigidTransform.Identity);
        Same(expected, Deviations(Shapes.Cube(10, 3), scan, RigidTransform.Identity), 1e-12);
        Same(expected, Deviations(Shapes.Cube(10, 16), scan, RigidTransform.Identity), 1e-12);
    }

    /// <summary>Statistics against their definition: moments by sums, percentiles by the weight at or below them.</summary>
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void StatisticsAreWhatTheirDefinitionsSay(int seed)
    {
        var random = new Random(seed);
        double[] values =
            [.. Enumerable.Range(0, 500).Select(_ => random.Next(10) == 0 ? double.NaN : Math.Round(random.NextDouble() - 0.4, 2))];
        double[] areas = [.. values.Select(_ => 0.1 + random.NextDouble())];
        var s = DeviationStatistics.Of(values, areas, -0.2, 0.3);
        var known = values.Zip(areas).Where(p => !double.IsNaN(p.First)).ToArray();
        var weight = known.Sum(p => p.Second);
        var mean = known.Sum(p => p.First * p.Second) / weight;
        Assert.Equal(known.Length, s.Count);
        Assert.Equal(values.Length - known.Length, s.NoDataCount);
        Assert.Equal(1 - (weight / areas.Sum()), s.NoData, 1e-12);
        Assert.Equal(mean, s.Mean, 1e-12);
        Assert.Equal(Math.Sqrt(known.Sum(p => p.Second * (p.First - mean) * (p.First - mean)) / weight), s.Std, 1e-10);
        Assert.Equal(known.Where(p => p.First is >= -0.2 and <= 0.3).Sum(p => p.Second) / weight, s.WithinTolerance, 1e-12);
        Assert.Equal(known.Average(p => p.First), s.PlainMean, 1e-12);
        foreach (var (name, value) in s.Percentiles)
        {
            var level = double.Parse(name, System.Globalization.CultureInfo.InvariantCulture) / 100;
            Assert.True(known.Where(p => p.First <= value).Sum(p => p.Second) >= (level * weight) - 1e-9, name);
            Assert.True(known.Where(p => p.First < value).Sum(p => p.Second) < (level * weight) + 1e-9, name);
        }

        // Weights count relatively; any common factor and any order leave all as it is.
        var turned = DeviationStatistics.Of([.. values.Reverse()], [.. areas.Reverse().Select(a => 7 * a)], -0.2, 0.3);
        Assert.Equal(s.Mean, turned.Mean, 1e-12);
        Assert.Equal(s.Rms, turned.Rms, 1e-12);
        Assert.Equal(s.Percentiles["95"], turned.Percentiles["95"]);
    }

    /// <summary>Points twice as dense on one half shift the plain mean toward it and not the one by area.</summary>
    [Fact]
    public void TheDensityOfAScanDoesNotBiasItsMean()
    {
        // Half the plate 0.1 too high, meshed sixteen times as densely.
        var low = Shapes.Field(10, 5, (_, _) => 0);
        var high = Shapes.Field(10, 20, (_, _) => 0.1).Transformed(RigidTransform.FromTranslation(new(20, 0, 0)));
        var scan = new TriangleMesh(
            [.. low.Coordinates, .. high.Coordinates], [.. low.Indices, .. high.Indices.Select(i => i + low.VertexCount)]);
        var nominal = NominalModel.OfSurface(Shapes.Field(40, 1, (_, _) => 0).Transformed(RigidTransform.FromTranslation(new(-5, -5, 0))));
        var map = Deviation.Compute(scan, RigidTransform.Identity, nominal, new(nominal.Mesh), new(1));
        var s = DeviationStatistics.Of(map.Values, scan.VertexAreas, -1, 1);
        Assert.Equal(0.05, s.Mean, 1e-12);
        Assert.Equal(0.1 * high.VertexCount / scan.VertexCount, s.PlainMean, 1e-12);
    }

    /// <summary>Areas beyond a limit against joining vertices over edges pair by pair.</summary>
    [Theory]
    [InlineData(4)]
    [InlineData(5)]
    public void AreasBeyondALimitAreTheConnectedOnes(int seed)
    {
        var mesh = Shapes.Sphere(10, 3);
        var random = new Random(seed);
        double[] values =
            [.. Enumerable.Range(0, mesh.VertexCount).Select(_ => random.Next(20) == 0 ? double.NaN : (2 * random.NextDouble()) - 1)];
        int Side(int v) => values[v] > 0.2 ? 1 : values[v] < -0.3 ? -1 : 0;
        var parent = Enumerable.Range(0, mesh.VertexCount).ToArray();
        int Root(int v) => parent[v] == v ? v : parent[v] = Root(parent[v]);
        for (var t = 0; t < mesh.TriangleCount; t++)
        {
            for (var k = 0; k < 3; k++)
            {
                var (a, b) = (mesh.Indices[(3 * t) + k], mesh.Indices[(3 * t) + ((k + 1) % 3)]);
                if (Side(a) != 0 && Side(a) == Side(b))
                {
                    parent[Root(a)] = Root(b);
                }
            }
        }

        var expected = Enumerable.Range(0, mesh.VertexCount).Where(v => Side(v) != 0).GroupBy(Root).Select(g => string.Join(',', g.Order()))
            .Order().ToList();
        var areas = OutOfTolerance.Areas(new(mesh), values, -0.3, 0.2);
        Assert.Equal(expected, areas.Select(a => string.Join(',', a.Vertices)).Order());
        foreach (var area in areas)
        {
            Assert.Equal(area.Vertices.Sum(v => mesh.VertexAreas[v]), area.Area, 1e-9);
            Assert.Equal(area.High ? area.Vertices.Max(v => values[v]) : area.Vertices.Min(v => values[v]), area.Extreme);
        }
    }

    /// <summary>Wall thickness follows the part: a tube of 3 mm turned, moved and enlarged.</summary>
    [Fact]
    public void ThicknessFollowsThePart()
    {
        var (outer, inner) = (Shapes.Sphere(20, 3), Shapes.Sphere(17, 3));
        var shell = new TriangleMesh([.. outer.Coordinates, .. inner.Coordinates],
            [.. outer.Indices, .. inner.Indices.Chunk(
            3).SelectMany(t => new[] { t[0] + outer.VertexCount, t[2] + outer.VertexCount, t[1] + outer.VertexCount })]);
        double[] Rays(TriangleMesh mesh, double limit) => WallThickness.ByRay(mesh, new(mesh), limit);
        double[] Balls(TriangleMesh mesh, double limit) => WallThickness.BySphere(mesh, new(mesh), limit);
        var (rays, balls) = (Rays(shell, 10), Balls(shell, 10));
        Assert.All(rays, w => Assert.InRange(w, 2.9, 3.1));
        foreach (var motion in Motions)
        {
            // Rays follow the normals, which are single-precision: 1e-7 of 3 mm to the side, on facets that lean by less than 0.2.
            Same(rays, Rays(shell.Transformed(motion), 10), 1e-7);

            // The ball is found by steps that end at a relative 1e-9 of the limit or less.
            Same(balls, Balls(shell.Transformed(motion), 10), 1e-6);
        }

        Same([.. rays.Select(w => 5 * w)], Rays(shell.Scaled(5), 50), 5e-7);
    }

    private static double[] Deviations(TriangleMesh nominal, TriangleMesh scan, RigidTransform pose, double reach = 5)
    {
        var model = NominalModel.OfSurface(nominal);
        return Deviation.Compute(scan, pose, model, new TriangleTree(model.Mesh), new(reach)).Values;
    }

    private static void Same(double[] expected, double[] actual, double tolerance)
    {
        Assert.Equal(expected.Length, actual.Length);
        for (var i = 0; i < expected.Length; i++)
        {
            Assert.True(double.IsNaN(expected[i]) == double.IsNaN(actual[i]) && !(Math.Abs(expected[i] - actual[i]) > tolerance),
                $"{i}: {expected[i]:R}, {actual[i]:R}");
        }
    }
}

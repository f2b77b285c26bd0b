using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;

namespace Bostel.Core.Tests.Preparation;

/// <summary>Smoothing, spikes and noise, on surfaces with planted errors.</summary>
public class SmoothingTests
{
    [Fact]
    public void NoiseGoesAndTheSphereDoesNotShrink()
    {
        const double Sigma = 0.02;
        var clean = Shapes.Sphere(10, 5);
        var noisy = Shapes.Noisy(clean, Sigma, 7);
        var smoothed = Smoothing.Smooth(noisy, null, 10, 1).Mesh;
        var (before, after) = (Rms(noisy), Rms(smoothed));
        Assert.Equal(Sigma, before, 0.1 * Sigma);
        Assert.InRange(after, 0, 0.5 * Sigma);

        // The form of a sphere is one frequency k of its umbrella operator: ten passes change the radius by [(1 − λk)(1 − μk)]¹⁰.
        var k = Enumerable.Range(0, clean.VertexCount / 40).Select(i => 40 * i)
            .Average(v => 1 - (Neighbours(clean, v).Average(n => clean.Vertex(n).Dot(clean.Vertex(v))) / 100));
        var expected = 10 * Math.Pow((1 - (0.5 * k)) * (1 + (0.505 * k)), 10);
        var found = Enumerable.Range(0, smoothed.VertexCount).Average(v => smoothed.Vertex(v).Length);
        Assert.Equal(expected, found, 0.03 * Sigma);
        Assert.Equal(10, found, 0.05 * Sigma);
    }

    [Theory]
    [InlineData(0.001)]
    [InlineData(0.01)]
    public void NoPointLeavesItsGuardAndTheStatedDisplacementIsTheTrueOne(double guard)
    {
        var noisy = Shapes.Noisy(Shapes.Cube(10, 20), 0.03, 8);
        var smoothed = Smoothing.Smooth(noisy, null, 20, guard);
        for (var v = 0; v < noisy.VertexCount; v++)
        {
            var moved = Vector3D.Distance(noisy.Vertex(v), smoothed.Mesh.Vertex(v));
            Assert.InRange(moved, 0, guard * (1 + 1e-12));
            Assert.Equal(moved, smoothed.Displacements[v], 1e-7);
        }

        // With so strong noise most points want farther than they may.
        Assert.Equal(guard, smoothed.Largest, 1e-7);
    }

    [Fact]
    public void OnlyChosenPointsMoveAndBordersStay()
    {
        var noisy = Shapes.Noisy(Shapes.Field(20, 20, (_, _) => 0), 0.05, 9);
        var chosen = Enumerable.Range(0, noisy.VertexCount).Select(v => noisy.Vertex(v).X < 10).ToArray();
        var smoothed = Smoothing.Smooth(noisy, chosen, 5, 1).Mesh;
        for (var v = 0; v < noisy.VertexCount; v++)
        {
            var p = noisy.Vertex(v);
            var border = v % 21 is 0 or 20 || v / 21 is 0 or 20;
            Assert.Equal(chosen[v] && !border, smoothed.Vertex(v) != p);
        }
    }

    [Fact]
    public void WishesOutOfRangeAreRefused()
    {
        var cube = Shapes.Cube(1, 2);
        Assert.Contains(
            "passes", Assert.Throws<BadInputException>(() => Smoothing.Smooth(cube, null, 0, 1)).Message, StringComparison.Ordinal);
        Assert.Contains("maxDisplacement", Assert.Throws<BadInputException>(() => Smoothing.Smooth(cube, null, 1, 0)).Message,
            StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(0.005)]
    [InlineData(0.05)]
    public void TheNoiseIsEstimated(double sigma)
    {
        // A coarse sphere: each vertex stands h²/(2R), about 0.018 mm, over its neighbours, and that must not count.
        var noisy = Shapes.Noisy(Shapes.Sphere(10, 5), sigma, 11);
        var found = Roughness.Of(noisy, noisy.Rings).Noise;

        // The median of 10 000 is good to 1 %; the mesh is not quite regular, for which a tenth is allowed.
        Assert.Equal(sigma, found, 0.1 * sigma);
    }

    [Fact]
    public void PlantedSpikesAreFoundAndNothingElse()
    {
        var sphere = Shapes.Noisy(Shapes.Sphere(10, 5), 0.005, 2);
        var random = new Random(6);
        var planted = Enumerable.Range(0, 25).Select(i => i * (sphere.VertexCount / 25)).ToHashSet();
        var moved = (double[])sphere.Coordinates.Clone();
        foreach (var v in planted)
        {
            var height = (0.5 + random.NextDouble()) * (random.Next(2) == 0 ? 1 : -1);
            for (var k = 0; k < 3; k++)
            {
                moved[(3 * v) + k] *= 1 + (height / 10);
            }
        }

        var spikes = Outliers.Spikes(sphere.WithCoordinates(moved), 8);
        Assert.Equal(planted.Order(), Enumerable.Range(0, spikes.Length).Where(v => spikes[v]));
    }

    [Fact]
    public void SharpEdgesAreNoSpikes()
    {
        var cube = Shapes.Noisy(Shapes.Cube(10, 30), 0.003, 4);
        var found = Enumerable.Range(0, cube.VertexCount).Where(v => Outliers.Spikes(cube, 8)[v]).ToList();

        // Only the eight corners may stand out alone.
        Assert.All(found, v => Assert.Equal(Math.Sqrt(75), Vector3D.Distance(cube.Vertex(v), new(5, 5, 5)), 0.1));
    }

    [Fact]
    public void LonePointsOfACloudAreFound()
    {
        var field = Shapes.Field(50, 50, (x, y) => 0.01 * x * y);
        var strays = new Vector3D[] { new(10, 10, 30), new(40, 20, 60), new(-30, 5, 2) };
        var cloud = new TriangleMesh([.. field.Coordinates, .. strays.SelectMany(s => s.ToArray())], []);
        var lone = Outliers.LonePoints(cloud, 6);
        Assert.Equal(Enumerable.Range(field.VertexCount, 3), Enumerable.Range(0, lone.Length).Where(v => lone[v]));
    }

    [Theory]
    [InlineData(0.7)]
    [InlineData(2.5)]
    public void ThinningKeepsTheSpacingAndCoversEverything(double spacing)
    {
        var random = new Random(12);
        var cloud = new TriangleMesh([.. Enumerable.Range(0, 6000).Select(_ => 10 * random.NextDouble())], []);
        var kept = Thinning.ToSpacing(cloud, spacing);
        var points = Enumerable.Range(0, kept.Length).Where(v => kept[v]).Select(cloud.Vertex).ToArray();
        for (var v = 0; v < kept.Length; v++)
        {
            var nearest = points.Where(p => !kept[v] || p != cloud.Vertex(v)).Min(p => Vector3D.Distance(p, cloud.Vertex(v)));
            Assert.Equal(kept[v], nearest >= spacing);
        }
    }

    private static IEnumerable<int> Neighbours(TriangleMesh mesh, int v) =>
        Enumerable.Range(0, mesh.Indices.Length).Where(h => mesh.Indices[h] == v).Select(h => mesh.Indices[MeshTopology.Next(h)]);

    private static double Rms(TriangleMesh sphere) =>
        Math.Sqrt(Enumerable.Range(0, sphere.VertexCount).Average(v => Math.Pow(sphere.Vertex(v).Length - 10, 2)));
}

using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests.Spatial;

/// <summary>The triangle nearest to one point against a look at all of them.</summary>
public class NearestTriangleTests
{
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    public void ItIsTheNearestOfAll(int seed)
    {
        var random = new Random(seed);
        double Next() => (20 * random.NextDouble()) - 10;

        // Small triangles, one far larger than the others, and a vertex that no triangle uses.
        var coordinates = new List<double> { 0, 0, 0 };
        var indices = new List<int>();
        for (var t = 0; t < 300; t++)
        {
            var (x, y, z, size) = (Next(), Next(), Next(), t == 7 ? 12 : 0.4);
            indices.AddRange([1 + (3 * t), 2 + (3 * t), 3 + (3 * t)]);
            coordinates.AddRange([x, y, z, x + (size * random.NextDouble()), y + size, z, x, y + (size * random.NextDouble()), z + size]);
        }

        var mesh = new TriangleMesh([.. coordinates], [.. indices]);
        for (var k = 0; k < 200; k++)
        {
            var p = new Vector3D(Next(), Next(), Next());
            double Distance(int t)
            {
                var (a, b, c) = mesh.Triangle(t);
                return Vector3D.Distance(TriangleDistance.ClosestPoint(p, a, b, c, out _), p);
            }

            var least = Enumerable.Range(0, mesh.TriangleCount).Min(Distance);
            Assert.Equal(least, Distance(NearestTriangle.At(mesh, p)));
        }
    }

    [Fact]
    public void OfEquallyNearOnesItIsTheFirstAndOfNoneNone()
    {
        var cube = Shapes.Cube(10, 2);
        var corner = cube.Vertex(0);
        var around = Enumerable.Range(0, cube.TriangleCount).Where(t => cube.Indices.AsSpan(3 * t, 3).Contains(0)).ToList();
        Assert.Equal(around.Min(), NearestTriangle.At(cube, corner));
        Assert.Equal(-1, NearestTriangle.At(new TriangleMesh([0, 0, 0, 1, 1, 1], []), corner));
    }

    /// <summary>The growth's chords are those of the smooth normals, both ways across every edge.</summary>
    [Fact]
    public void TurnsAcrossEdgesAreTheChordsBetweenTheNormals()
    {
        var sphere = Shapes.Sphere(5, 2).KeepTriangles(t => t % 17 > 0);
        var (turns, neighbours) = (sphere.EdgeTurns, sphere.Topology.Neighbours);
        Vector3D N(int t) =>
            Vector3D.At(sphere.SmoothFaceNormals, t);
        for (var h = 0; h < turns.Length; h++)
        {
            Assert.Equal(neighbours[h] < 0, turns[h] == ushort.MaxValue);
            if (neighbours[h] >= 0)
            {
                // The angle follows from the chord; a step of the chord is 1/32767.
                Assert.Equal(N(h / 3).AngleTo(N(neighbours[h])), 2 * Math.Asin(turns[h] / MeshNormals.TurnSteps / 2), 4e-5);
            }
        }

        Assert.Contains(ushort.MaxValue, turns);
    }
}

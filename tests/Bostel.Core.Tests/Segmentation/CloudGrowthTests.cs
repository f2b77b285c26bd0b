using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Selecting;

namespace Bostel.Core.Tests.Segmentation;

/// <summary>A post, 8 mm in radius and 20 mm high, on a plate of 60 × 60 mm, and a ball apart, as bare points with noise.</summary>
public class CloudGrowthTests
{
    private const double Noise = 0.01, Spacing = 0.5;
    private static readonly Vector3D _ball = new(100, 0, 5);
    private static readonly Lazy<(TriangleMesh Cloud, int[] Part)> _scan = new(Make);

    private enum Part
    {
        Plate,
        Post,
        Top,
        Ball,
    }

    [Fact]
    public void APieceIsWhatHangsTogether()
    {
        var flags = Resolve(new PieceTerm { Frame = Frame.Scan, Point = [25, 25, 0] });
        Assert.All(flags.Select((f, i) => (f, i)), p => Assert.Equal(_scan.Value.Part[p.i] != (int)Part.Ball, p.f));
    }

    [Fact]
    public void GrowingByTurnStopsAtEdges()
    {
        var flags = Resolve(new GrowTerm { Frame = Frame.Scan, Point = [25, 25, 0], AngleDegrees = 10 });
        Assert.InRange(Share(flags, Part.Plate), 0.97, 1);
        Assert.Equal(0, Share(flags, Part.Top));
        Assert.InRange(Share(flags, Part.Post), 0, 0.1);
    }

    /// <summary>Points nearer to an edge than a neighbourhood, 1.25 mm, have no normal of their own.</summary>
    [Theory]
    [InlineData(0, 8, 10, (int)Part.Post, 0.8)]
    [InlineData(0, 0, 20, (int)Part.Top, 0.7)]
    [InlineData(100, 0, 10, (int)Part.Ball, 0.99)]
    [InlineData(20, -20, 0, (int)Part.Plate, 0.95)]
    public void ASurfaceIsToldByItsPoints(double x, double y, double z, int part, double least)
    {
        var flags = Resolve(new SurfaceTerm { Frame = Frame.Scan, Point = [x, y, z] });
        Assert.InRange(Share(flags, (Part)part), least, 1);
        foreach (var other in Enum.GetValues<Part>().Where(o => o != (Part)part))
        {
            Assert.InRange(Share(flags, other), 0, 0.02);
        }
    }

    private static bool[] Resolve(SelectionTerm term) => Selection.Resolve(_scan.Value.Cloud, [term], new(null, null));

    private static double Share(bool[] flags, Part part)
    {
        var of = Enumerable.Range(0, flags.Length).Where(i => _scan.Value.Part[i] == (int)part).ToList();
        return (double)of.Count(i => flags[i]) / of.Count;
    }

    private static (TriangleMesh Cloud, int[] Part) Make()
    {
        var random = new Random(4);
        var (points, part) = (new List<double>(), new List<int>());
        double Normal() => Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
        void Add(Vector3D p, Vector3D normal, Part of)
        {
            points.AddRange((p + (Noise * Normal() * normal)).ToArray());
            part.Add((int)of);
        }

        for (var x = -30.0; x <= 30; x += Spacing)
        {
            for (var y = -30.0; y <= 30; y += Spacing)
            {
                var onPost = (x * x) + (y * y) < 64;
                Add(new(x, y, onPost ? 20 : 0), Vector3D.UnitZ, onPost ? Part.Top : Part.Plate);
            }
        }

        for (var z = Spacing; z < 20; z += Spacing)
        {
            for (var k = 0; k < 100; k++)
            {
                var (sin, cos) = Math.SinCos(2 * Math.PI * (k + (z % 1)) / 100);
                Add(new(8 * cos, 8 * sin, z), new(cos, sin, 0), Part.Post);
            }
        }

        // A spiral over the sphere, evenly.
        for (var k = 0; k < 1200; k++)
        {
            var height = 1 - (2 * (k + 0.5) / 1200);
            var (sin, cos) = Math.SinCos(k * Math.PI * (3 - Math.Sqrt(5)));
            var n = new Vector3D(Math.Sqrt(1 - (height * height)) * cos, Math.Sqrt(1 - (height * height)) * sin, height);
            Add(_ball + (5 * n), n, Part.Ball);
        }

        return (new([.. points], []), [.. part]);
    }
}

using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Tests.Features;

/// <summary>A sheet of 60 × 40 mm with a hole of 6 mm radius and a slot of 16 × 6 mm, scanned as points and as triangles.</summary>
public class SheetEdgeTests
{
    private const double Spacing = 0.3;
    private static readonly RigidTransform _pose =
        RigidTransform.FromAxisAngle(new(1, -2, 0.5), 0.7) with { Translation = new(10, 20, -30) };
    private static readonly Circle3D _hole = new(new(15, 20, 0), Vector3D.UnitZ, 6);
    private static readonly Slot3D _slot = new(new(42, 20, 0), Vector3D.UnitZ, Vector3D.UnitY, 16, 6);

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void HolesAndSlotsAreFoundInTheEdges(bool cloud)
    {
        var edges = SheetEdges.Find(Sheet(cloud));
        Assert.True(edges.Count(e => e.Count > 40) == 3, string.Join(", ", edges.Select(e => $"{e.Count} {e.Shape?.Kind}")));
        var circle = (Circle3D)edges.Single(e => e.Shape is Circle3D).Shape!;
        var slot = (Slot3D)edges.Single(e => e.Shape is Slot3D).Shape!;
        var (hole, obround) = ((Circle3D)_hole.Transformed(_pose), (Slot3D)_slot.Transformed(_pose));

        // Nothing is lost at these edges, so that taking the usual loss off makes holes smaller: by 0.22 spacings a side, give or take
        // four standard deviations of what is left.
        foreach (var (measured, true_, edge) in (List<(double, double, SheetEdge)>)[
            (circle.Radius, hole.Radius, edges.Single(e => e.Shape is Circle3D)),
            (slot.Width / 2, obround.Width / 2, edges.Single(e => e.Shape is Slot3D))])
        {
            Assert.InRange(edge.Sigma!.Value, 0.1 * Spacing, 0.2 * Spacing);
            Assert.InRange(Math.Abs(measured + (0.22 * Spacing) - true_), 0, 4 * edge.Sigma.Value);
        }

        Assert.InRange(Math.Abs(slot.Length + (0.44 * Spacing) - obround.Length), 0, 0.5 * Spacing);
        Assert.InRange(Vector3D.Distance(circle.Center, hole.Center), 0, 0.3 * Spacing);
        Assert.InRange(Vector3D.Distance(slot.Center, obround.Center), 0, 0.3 * Spacing);
        Assert.InRange(slot.Direction.LineAngleTo(obround.Direction), 0, 0.02);
        Assert.InRange(circle.Normal.LineAngleTo(hole.Normal), 0, 0.01);

        // The outline of the sheet is no feature, but its points lie on it.
        var trim = edges.MaxBy(e => e.Count)!;
        Assert.Null(trim.Shape);
        Assert.True(trim.Closed);
        foreach (var p in trim.Points.Chunk(3).Select(Vector3D.FromArray).Select(_pose.Inverse().Apply))
        {
            var fromEdge = Math.Min(Math.Min(p.X, 60 - p.X), Math.Min(p.Y, 40 - p.Y));
            Assert.InRange(fromEdge, -0.1, 1.2 * Spacing);
        }
    }

    /// <summary>An even grid, shaken a little, without what lies in the hole and the slot.</summary>
    private static TriangleMesh Sheet(bool cloud)
    {
        var (nx, ny) = ((int)(60 / Spacing), (int)(40 / Spacing));
        var random = new Random(2);
        double Shake() => 0.1 * Spacing * (random.NextDouble() - 0.5);
        var points = Enumerable.Range(0, (nx + 1) * (ny + 1))
            .Select(i => new Vector3D(
            (60.0 * (i % (nx + 1)) / nx) + Shake(), (40.0 * (i / (nx + 1)) / ny) + Shake(), 0.02 * (random.NextDouble() - 0.5))).ToArray();
        var kept = points.Select(p => _hole.Distance(p) > 0 && _slot.Distance(p) > 0).ToArray();
        var triangles = new List<int>();
        for (var y = 0; y < ny; y++)
        {
            for (var x = 0; x < nx; x++)
            {
                var a = (y * (nx + 1)) + x;
                foreach (var t in (int[][])[[a, a + 1, a + nx + 2], [a, a + nx + 2, a + nx + 1]])
                {
                    if (t.All(v => kept[v]))
                    {
                        triangles.AddRange(t);
                    }
                }
            }
        }

        return cloud
            ? new([.. points.Where((_, i) => kept[i]).SelectMany(p => _pose.Apply(p).ToArray())], [])
            : new TriangleMesh([.. points.SelectMany(p => _pose.Apply(p).ToArray())], [.. triangles]).KeepTriangles(_ => true);
    }
}

using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Preparation;
using Bostel.Core.Segmentation;
using Bostel.Core.Selecting;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tests.Comparison;

/// <summary>
/// Meshes as no scanner should make them: triangles at random, sheets that meet in one edge, doubled, without area, turned. Every
/// computation answers with numbers or "no data", or refuses in a sentence.
/// </summary>
public class SoupTests
{
    public static TheoryData<int, string> Soups()
    {
        var soups = new TheoryData<int, string>();
        foreach (var (seed, kind) in ((int, string)[])[(0, "any"), (1, "fans"), (1, "doubled"), (0, "flat"), (0, "thin"), (1, "torn")])
        {
            soups.Add(seed, kind);
        }

        return soups;
    }

    [Theory]
    [MemberData(nameof(Soups))]
    public void EverythingIsComputedOrRefused(int seed, string kind)
    {
        var soup = Soup(kind, new Random(seed));
        var model = NominalModel.OfSurface(soup);
        var boxes = new TriangleTree(soup);
        var scan = Shapes.Noisy(Shapes.Sphere(8, 2), 0.3, seed);

        // Each way round: the soup as nominal, as scan, as both.
        foreach (var (of, to, index) in ((TriangleMesh, NominalModel, TriangleTree)[])[(scan, model, boxes),
            (soup, NominalModel.OfSurface(scan), new(scan)), (soup, model, boxes)])
        {
            var map = Deviation.Compute(of, RigidTransform.Identity, to, index, new(3));
            Assert.All(map.Values, d => Assert.True(double.IsNaN(d) || Math.Abs(d) <= 3 + 1e-9, $"{d}"));
            var statistics = DeviationStatistics.Of(map.Values, of.VertexAreas, -0.1, 0.1);
            Assert.Equal(map.Values.Length, statistics.Count + statistics.NoDataCount);
            Assert.All(OutOfTolerance.Areas(new(of), map.Values, -0.1, 0.1),
                a => Assert.True(double.IsFinite(a.Area) && double.IsFinite(a.Extreme)));
            Assert.InRange(NominalCoverage.Of(of, RigidTransform.Identity, to, 1, 500).Whole, 0, 1);
        }

        foreach (var outlines in PlaneSection.Cut(soup, new Vector3D(1, 0.3, -0.2).Normalized(), [-5, -1, 0, 0.5, 4]))
        {
            Assert.All(outlines, o => Assert.All(o.Points, c => Assert.True(double.IsFinite(c))));
        }

        Assert.All(WallThickness.ByRay(soup, boxes, 30), w => Assert.True(double.IsNaN(w) || w is >= 0 and <= 30 + 1e-9));
        Assert.All(SheetEdges.Find(soup), e => Assert.True(e.Points.All(double.IsFinite)));
        OrRefused(() => Assert.Equal(soup.TriangleCount, CadMeshSegmentation.Recognise(soup).FaceOfTriangle.Length));
        OrRefused(() => Assert.Equal(soup.TriangleCount, ScanSegmentation.Recognise(soup).FaceOfTriangle.Length));
        OrRefused(() => Assert.True(double.IsFinite(SurfaceAlignment.FitToAllSurfaces(scan, new(boxes)).Transform.Translation.Length)));
        OrRefused(() => Assert.All(SymmetryPlane.Find(soup), p => Assert.InRange(p.Share, 0, 1)));
        OrRefused(() => Assert.InRange(RotationAxis.Find(soup).Share, 0, 1));

        Assert.All(Smoothing.Smooth(soup, null, 3, 0.5).Mesh.Coordinates, c => Assert.True(double.IsFinite(c)));
        var (filled, _) = HoleFilling.Fill(soup, l => l.Vertices.Length < 12, curved: true);
        Assert.True(filled.TriangleCount >= soup.TriangleCount && filled.Coordinates.All(double.IsFinite));
        var reduced = Reduction.Collapse(soup, soup.TriangleCount / 2);
        Assert.True(reduced.TriangleCount <= soup.TriangleCount && reduced.Coordinates.All(double.IsFinite));
        Assert.Equal(0, MeshRepair.SplitNonManifold(soup).Mesh.Topology.NonManifoldEdges);
        OrRefused(() => Assert.NotEmpty(ConnectedPieces.Find(soup, null).Pieces));
        Assert.True(MeshSheet.Of(soup).Triangles == soup.TriangleCount);

        static void OrRefused(Action action)
        {
            try
            {
                action();
            }
            catch (BadInputException e)
            {
                Assert.False(string.IsNullOrWhiteSpace(e.Message));
            }
        }
    }

    private static TriangleMesh Soup(string kind, Random random)
    {
        double Next() => (20 * random.NextDouble()) - 10;
        Vector3D Any() => new(Next(), Next(), Next());
        var sphere = Shapes.Sphere(8, 2);
        switch (kind)
        {
            case "fans":
                // Many sheets on each of a few edges.
                return Shapes.Mesh(Enumerable.Range(0, 40).Select(_ => Any()),
                    Enumerable.Range(0, 120).SelectMany(i => new[] { 2 * (i % 5), (2 * (i % 5)) + 1, 10 + (i % 30) }));
            case "doubled":
                return new(sphere.Coordinates,
                    [.. sphere.Indices, .. sphere.Indices, .. sphere.Indices.Take(
                    300).Chunk(3).SelectMany(t => new[] { t[1], t[0], t[2] })]);
            case "flat":
                return Shapes.Mesh(Enumerable.Range(0, 60).Select(_ => Any() with { Z = 0 }), Enumerable.Range(
                    0, 300).Select(_ => random.Next(60)).Chunk(3).Where(t => t.Distinct().Count() == 3).SelectMany(t => t));
            case "thin":
                // Needles and triangles whose corners lie on a line.
                return Shapes.Mesh(Enumerable.Range(0, 90)
                    .Select(i => i % 3 == 2 ? new Vector3D(i, i, i) / 9 : i % 3 == 1 ? new Vector3D(i, i, i + 1e-9) / 9 : Any()),
                    Enumerable.Range(0, 90));
            case "torn":
                return MeshRepair.Turn(sphere.KeepTriangles(_ => random.Next(5) > 0), _ => random.Next(3) == 0);
            default:
                return Shapes.Mesh(Enumerable.Range(0, 50).Select(_ => Any()), Enumerable.Range(0, 200).SelectMany(_ =>
                {
                    var (a, b, c) = (random.Next(50), random.Next(50), random.Next(50));
                    return a == b || b == c || a == c ? new[] { 0, 1, 2 } : [a, b, c];
                }));
        }
    }
}

using Bostel.Core.Comparison;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Comparison;

/// <summary>Deviations to freeform faces are those to the exact surface, not to its triangles.</summary>
public class FreeformTests
{
    /// <summary>
    /// The blade's freeform faces. Points on their surfaces, raised by a known height, read it; the triangles alone would be off by up to
    /// the chord error, on one side only.
    /// </summary>
    [Fact]
    public void TheChordErrorIsGone()
    {
        var nominal = DemoParts.Model("FB-620");
        var runner = new InspectionRunner(nominal);
        var free = nominal.Faces.Where(f => f.Freeform is not null).ToList();
        Assert.NotEmpty(free);
        Assert.DoesNotContain(nominal.Faces, f => f.Kind == "freeform" && f.Freeform is null);
        var random = new Random(3);
        var (points, heights) = (new List<double>(), new List<double>());
        for (var t = 0; t < nominal.Mesh.TriangleCount; t++)
        {
            if (nominal.Faces[nominal.FaceOfTriangle[t]].Freeform is null)
            {
                continue;
            }

            var (a, b, c) = nominal.Mesh.Triangle(t);
            if (nominal.ExactFoot(t, (a + b + c) / 3) is var (foot, normal))
            {
                heights.Add(0.1 * (random.NextDouble() - 0.5));
                points.AddRange((foot + (heights[^1] * normal)).ToArray());
            }
        }

        var cloud = new TriangleMesh([.. points], []);
        var options = new DeviationOptions(1);
        var exact = Deviation.Compute(cloud, RigidTransform.Identity, nominal, runner.Tree, options).Values;
        Assert.True(heights.Count > 1000);

        // A point sunk in beside an edge may lie nearer to the face beyond it.
        Assert.InRange(exact.Zip(heights).Count(p => Math.Abs(p.First - p.Second) > 1e-6), 0, heights.Count / 10_000);

        // The check can fail: without the surfaces the same points read up to the chord error off.
        var plain = new NominalModel(nominal.Mesh, nominal.FaceOfTriangle, [.. nominal.Faces.Select(f => f with { Freeform = null })],
            nominal.Edges, nominal.ChordError, []);
        var chordal = Deviation.Compute(cloud, RigidTransform.Identity, plain, runner.Tree, options).Values;
        var errors = chordal.Zip(heights).Select(p => Math.Abs(p.First - p.Second)).Order().ToList();
        Assert.InRange(errors[(int)(0.99 * errors.Count)], 0.2 * nominal.ChordError, nominal.ChordError);
    }

    /// <summary>A scan without noise of the exact blade reads nothing on it.</summary>
    [Fact]
    public void ThePerfectScanReadsNothing()
    {
        var nominal = DemoParts.Model("FB-620");
        var runner = new InspectionRunner(nominal);
        var scan = SimulatedScanner.Scan(nominal, new()
        {
            Spacing = nominal.Mesh.Bounds.Diagonal / 150,
            Noise = 0,
            RandomPose = false,
            StrayPieces = 0,
            TablePatch = false,
        }).Mesh;
        var map = Deviation.Compute(scan, RigidTransform.Identity, nominal, runner.Tree, new(1));
        var onFree = Enumerable.Range(0, scan.VertexCount).Where(v => map.Triangles[v] >= 0
            && nominal.Faces[nominal.FaceOfTriangle[map.Triangles[v]]].Freeform is not null).Select(v => Math.Abs(map.Values[v])).Order()
                .ToList();
        Assert.True(onFree.Count > 500);

        // At the borders between faces the nearest triangle may belong to the neighbour; there the chord error stays.
        Assert.Equal(0, onFree[(int)(0.98 * onFree.Count)], 1e-6);
        Assert.InRange(onFree[^1], 0, 2 * nominal.ChordError);
    }

    [Fact]
    public void AStoredNominalKeepsItsSurfaces()
    {
        var nominal = DemoParts.Model("FB-620");
        var again = NominalModelStore.Load(NominalModelStore.Save(nominal));
        Assert.Equal(nominal.CornerParameters, again.CornerParameters);
        foreach (var (first, second) in nominal.Faces.Zip(again.Faces).Where(p => p.First.Freeform is not null))
        {
            Assert.Equal(first.Freeform!.Poles, second.Freeform!.Poles);
            Assert.Equal(first.Freeform.At(0.3, 0.4), second.Freeform.At(0.3, 0.4));
        }
    }
}

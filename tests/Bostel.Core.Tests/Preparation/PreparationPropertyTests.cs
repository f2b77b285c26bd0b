using Bostel.Core.Formats;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Preparation;
using Bostel.Core.Selecting;

namespace Bostel.Core.Tests.Preparation;

/// <summary>Steps of preparation done twice, elsewhere, larger, or in another order of triangles: what must come out alike.</summary>
public class PreparationPropertyTests
{
    private static readonly RigidTransform Motion =
        RigidTransform.FromAxisAngle(new(2, -1, 0.7), 1.9) with { Translation = new(400, -300, 250) };
    private static readonly PreparationContext Here = new(null, null);

    private static readonly TriangleMesh Noisy = Shapes.Noisy(Shapes.Sphere(10, 4), 0.03, 12);

    /// <summary>
    /// Smoothing knows no axes: the moved part smoothed is the smoothed part moved. Coordinates of 500 mm are good to 1e-13, ten passes add
    /// up.
    /// </summary>
    [Theory]
    [InlineData(1)]
    [InlineData(0.01)]
    public void SmoothingFollowsThePart(double guard)
    {
        var expected = Smoothing.Smooth(Noisy, null, 10, guard).Mesh.Transformed(Motion);
        var moved = Smoothing.Smooth(Noisy.Transformed(Motion), null, 10, guard).Mesh;
        Close(expected, moved, 1e-10);
        Close(Smoothing.Smooth(Noisy, null, 10, guard).Mesh.Scaled(25), Smoothing.Smooth(Noisy.Scaled(25), null, 10, 25 * guard).Mesh,
            1e-11);
    }

    /// <summary>The order of the triangles is none of the surface's: only the rounding of sums may differ.</summary>
    [Fact]
    public void SmoothingDoesNotDependOnTheOrderOfTheTriangles() =>
        Close(Smoothing.Smooth(Noisy, null, 10, 1).Mesh, Smoothing.Smooth(Reordered(Noisy, 3), null, 10, 1).Mesh, 1e-12);

    [Fact]
    public void ASurfaceFilledOnceHasNothingLeftToFill()
    {
        var random = new Random(5);
        var open = Shapes.Sphere(10, 4).KeepTriangles(_ => random.Next(60) > 0);
        var (filled, holes) = HoleFilling.Fill(open, _ => true, curved: true);
        Assert.Equal(BoundaryLoops.Find(open).Count, holes.Count);
        Assert.Empty(BoundaryLoops.Find(filled));
        var (again, none) = HoleFilling.Fill(filled, _ => true, curved: true);
        Assert.Empty(none);
        Assert.Equal(filled.Indices, again.Indices);

        // The volume of the closed surface is nearly the ball's: each hole is a triangle or two of 5120, its sagitta below 0.05 mm.
        Assert.Equal(Shapes.Volume(Shapes.Sphere(10, 4)), Shapes.Volume(filled), 1e-3 * Shapes.Volume(filled));
    }

    [Fact]
    public void WhatWasOrientedIsOriented()
    {
        var random = new Random(8);
        var mixed = MeshRepair.Turn(Shapes.Sphere(10, 3), _ => random.Next(2) == 0);
        var (oriented, turned) = MeshRepair.OrientConsistently(mixed);
        Assert.True(turned > 100);
        Assert.Equal(0, MeshSheet.Of(oriented).FlippedEdges);
        var (again, none) = MeshRepair.OrientConsistently(oriented);
        Assert.Equal(0, none);
        Assert.Equal(oriented.Indices, again.Indices);
        Assert.Equal(Shapes.Volume(Shapes.Sphere(10, 3)), Shapes.Volume(oriented), 1e-9);
    }

    [Fact]
    public void PiecesAreDroppedOnceAndForAll()
    {
        var (big, small) = (Shapes.Sphere(10, 3), Shapes.Sphere(1, 1).Transformed(RigidTransform.FromTranslation(new(30, 0, 0))));
        var both = new TriangleMesh(
            [.. small.Coordinates, .. big.Coordinates], [.. small.Indices, .. big.Indices.Select(i => i + small.VertexCount)]);
        var (kept, record) = LoosePieces.DropBelow(both, 200);
        Assert.Equal((2, 1, big.TriangleCount), (record.PiecesFound, record.PiecesDropped, kept.TriangleCount));
        Assert.Equal(0, LoosePieces.DropBelow(kept, 200).Record.PiecesDropped);
        Assert.Equal(big.Area(), kept.Area(), 1e-9);
    }

    /// <summary>Points that stand out by many times the noise, wherever the part lies; what is left has none.</summary>
    [Fact]
    public void SpikesAreTheSameElsewhereAndGoneAfterwards()
    {
        var coordinates = (double[])Noisy.Coordinates.Clone();
        int[] planted = [40, 777, 1500, 2222];
        foreach (var v in planted)
        {
            for (var k = 0; k < 3; k++)
            {
                coordinates[(3 * v) + k] *= 1.2;
            }
        }

        var spiky = Noisy.WithCoordinates(coordinates);
        var found = Outliers.Spikes(spiky, 12);
        Assert.Equal(planted, Enumerable.Range(0, found.Length).Where(v => found[v]));
        Assert.Equal(found, Outliers.Spikes(spiky.Transformed(Motion), 12));
    }

    [Theory]
    [InlineData(300)]
    [InlineData(1200)]
    public void ReductionReachesItsCountAndStaysNearWhateverThePlace(int count)
    {
        var sphere = Shapes.Sphere(10, 4);
        foreach (var mesh in (TriangleMesh[])[sphere, sphere.Transformed(Motion), Reordered(sphere, 6)])
        {
            var reduced = Reduction.Collapse(mesh, count);
            Assert.InRange(reduced.TriangleCount, count - 2, count);
            Assert.Equal(0, reduced.Topology.BoundaryEdges);

            // Even triangles of an inscribed sphere with as many faces lie below it by R(1 − cos(e/R)), e² = 4π·R²/n·(2/√3)/3
            // their circumradius squared.
            var e2 = 4 * Math.PI * 100 / count * 2 / Math.Sqrt(3) / 3;
            var sagitta = 10 * (1 - Math.Cos(Math.Sqrt(e2) / 10));
            var center = mesh.Bounds.Center;
            Assert.All(Enumerable.Range(0, reduced.VertexCount),
                v => Assert.InRange(Vector3D.Distance(reduced.Vertex(v), center), 10 - (2 * sagitta), 10 + (2 * sagitta)));
        }
    }

    /// <summary>A selection is one of the surface: the same elsewhere, and in another order the same triangles.</summary>
    [Fact]
    public void SelectionsFollowThePart()
    {
        var cube = Shapes.Cube(10, 8);
        SelectionTerm[] Terms(RigidTransform at) =>
        [
            new GrowTerm { Frame = Frame.Scan, Point = at.Apply(new(5, 5, 10)).ToArray(), AngleDegrees = 15 },
            new SideTerm { Frame = Frame.Scan, Point = at.Apply(new(3.3, 0, 0)).ToArray(), Normal = at.Rotate(new(1, 0, 0)).ToArray(), },
            new BrushTerm { Frame = Frame.Scan, Path = [.. at.Apply(new(5, 5, 10)).ToArray(), .. at.Apply(new(9, 5, 10)).ToArray()],
                Radius = 1.1, Op = SelectionChange.Take },
            new WidenTerm { Rows = 1 },
        ];
        var expected = Selection.Resolve(cube, Terms(RigidTransform.Identity), Here);
        Assert.Contains(true, expected);
        Assert.Contains(false, expected);
        Assert.Equal(expected, Selection.Resolve(cube.Transformed(Motion), Terms(Motion), Here));
        var order = Order(cube, 9);
        var reordered = Selection.Resolve(Reordered(cube, 9), Terms(RigidTransform.Identity), Here);
        Assert.Equal(order.Select(t => expected[t]), reordered);
    }

    /// <summary>What was written and read once comes back to the last bit from then on.</summary>
    [Theory]
    [InlineData("a.stl")]
    [InlineData("a.ply")]
    [InlineData("a.obj")]
    [InlineData("a.glb")]
    [InlineData("a.3mf")]
    public void AFileReadAndWrittenAgainStaysAsItIs(string name)
    {
        static TriangleMesh Through(TriangleMesh mesh, string name)
        {
            using var memory = new MemoryStream();
            MeshFormats.Write(memory, name, mesh);
            memory.Position = 0;
            return MeshFormats.Read(memory, name).Mesh;
        }

        var first = Through(Noisy, name);
        var second = Through(name.EndsWith(".glb", StringComparison.Ordinal) ? first.Scaled(1000) : first, name);
        Assert.Equal(Noisy.TriangleCount, first.TriangleCount);
        Assert.Equal(first.Indices, second.Indices);
        Close(first, second, name.EndsWith(".glb", StringComparison.Ordinal) ? 1e-9 : 0);
    }

    private static int[] Order(TriangleMesh mesh, int seed)
    {
        var order = Enumerable.Range(0, mesh.TriangleCount).ToArray();
        new Random(seed).Shuffle(order);
        return order;
    }

    private static TriangleMesh Reordered(TriangleMesh mesh, int seed) =>
        new(mesh.Coordinates, [.. Order(mesh, seed).SelectMany(t => mesh.Indices[(3 * t)..((3 * t) + 3)])]);

    private static void Close(TriangleMesh expected, TriangleMesh actual, double tolerance)
    {
        Assert.Equal(expected.VertexCount, actual.VertexCount);
        var most = Enumerable.Range(0, expected.VertexCount).Max(v => Vector3D.Distance(expected.Vertex(v), actual.Vertex(v)));
        Assert.InRange(most, 0, tolerance);
    }
}

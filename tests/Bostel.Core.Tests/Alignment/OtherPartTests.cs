using Bostel.Core.Alignment;
using Bostel.Core.Meshes;
using Bostel.Core.Plans;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Alignment;

/// <summary>Scans of other parts are told, and so are mirrored ones, whatever pose they come in.</summary>
public class OtherPartTests
{
    private static TriangleMesh Scan(string part) =>
        SimulatedScanner.Scan(DemoParts.Model(part), ScanRecipe.Parse("{\"seed\": 4, \"spacing\": 1.2, \"noise\": 0.01}", "recipe")).Mesh;

    private static TriangleMesh Mirrored(TriangleMesh mesh)
    {
        var coordinates = mesh.Coordinates.ToArray();
        for (var i = 1; i < coordinates.Length; i += 3)
        {
            coordinates[i] = -coordinates[i];
        }

        var indices = mesh.Indices.ToArray();
        for (var t = 0; t < indices.Length; t += 3)
        {
            (indices[t + 1], indices[t + 2]) = (indices[t + 2], indices[t + 1]);
        }

        return new(coordinates, indices);
    }

    [Theory]
    [InlineData("VH-310", "HW-118")]
    [InlineData("VH-310", "RC-077")]
    [InlineData("FB-620", "VH-310")]
    [InlineData("RC-077", "VH-310")]
    public void AScanOfAnotherPartDoesNotResemble(string nominal, string scan)
    {
        var result = SurfaceAlignment.FitToAllSurfaces(Scan(scan), DemoParts.Target(nominal));
        Assert.False(result.Resembles);
        Assert.False(result.Mirrored);
        Assert.Contains("does not resemble", InspectionRunner.Unlike(result), StringComparison.Ordinal);
    }

    [Fact]
    public void AMirroredScanIsSaidToBeOneAndTheRightOneIsNot()
    {
        // The blade has no plane of symmetry: its mirror image is another part.
        var scan = Scan("FB-620");
        var right = SurfaceAlignment.FitToAllSurfaces(scan, DemoParts.Target("FB-620"));
        Assert.True(right.Resembles && !right.Mirrored);
        var wrong = SurfaceAlignment.FitToAllSurfaces(Mirrored(scan), DemoParts.Target("FB-620"));
        Assert.True(wrong.Mirrored);
        Assert.False(wrong.Resembles);
        Assert.Contains("mirror image", InspectionRunner.Unlike(wrong), StringComparison.Ordinal);
    }

    [Fact]
    public void TheChosenOneOfSeveralPosesIsTakenAgain()
    {
        // A square plate fits in four turned poses (and face to face); the one preferred is found again to the last bit.
        var plate = Plate();
        var target = new AlignmentTarget(new(plate.Mesh));
        var best = SurfaceAlignment.FitToAllSurfaces(plate.Mesh, target);
        Assert.NotEmpty(best.Alternatives);
        var wanted = best.Alternatives[0].Transform;
        var plan = new InspectionPlan { Prepare = new() { Steps = [] }, Align = new AllSurfacesPlan { Prefer = wanted.ToArray() } };
        var runner = new InspectionRunner(plate);
        var chosen = runner.Align(runner.Begin(plate.Mesh), plan);
        Assert.True(chosen.Transform.After(wanted.Inverse()).RotationAngle() < 1e-3);
        Assert.Contains(chosen.Alternatives, a => a.Transform.After(best.Transform.Inverse()).RotationAngle() < 1e-3);
        Assert.Equal(chosen.Transform, runner.Align(runner.Begin(plate.Mesh), plan).Transform);
    }

    private static Core.Nominals.NominalModel Plate()
    {
        var cube = Shapes.Cube(40, 12);
        var flat = cube.Coordinates.ToArray();
        for (var i = 2; i < flat.Length; i += 3)
        {
            flat[i] *= 0.2;
        }

        return Core.Segmentation.CadMeshSegmentation.Recognise(new(flat, cube.Indices), 1, 1e-9, []);
    }
}

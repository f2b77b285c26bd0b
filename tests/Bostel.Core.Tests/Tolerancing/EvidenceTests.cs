using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Segmentation;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>
/// A verdict stands on all of the evidence: what a scan shows beside a face, beyond the search distance or not at all keeps it from
/// conforming. The part is a cube of 20 mm, scanned every 0.5 mm with a little noise; its top is under flatness and profile.
/// </summary>
public class EvidenceTests
{
    private const double Noise = 0.002;
    private static readonly NominalModel _nominal = CadMeshSegmentation.Recognise(Shapes.Cube(20, 2));
    private static readonly InspectionRunner _runner = new(_nominal);
    private static readonly int _bottom = _nominal.Faces.Single(f => f.Shape is Plane3D { Normal.Z: < -0.9 }).Id;
    private static readonly int _top = _nominal.Faces.Single(f => f.Shape is Plane3D { Normal.Z: > 0.9 }).Id;

    [Fact]
    public void APerfectFaceConforms()
    {
        var (flatness, profile) = Judge(p => p);
        Assert.Equal(Verdict.Conforming, flatness.Verdict);
        Assert.Equal(Verdict.Conforming, profile.Verdict);
        Assert.InRange(flatness.Measured!.Value, 0, flatness.Uncertainty!.Value);
        Assert.Equal(1, profile.Coverage, 0.01);
    }

    /// <summary>0.2 mm over 14 of the 20 mm under flatness 0.05.</summary>
    [Fact]
    public void AStepIsNoOutlier()
    {
        var (flatness, _) = Judge(p => OnTop(p) && p.X > 6.1 ? p with { Z = p.Z + 0.2 } : p);
        Assert.Equal(Verdict.NonConforming, flatness.Verdict);

        // No plane comes nearer than half the step to both levels, and none is needed farther than the whole.
        Assert.InRange(flatness.Measured!.Value, 0.1, 0.2 + (10 * Noise));
    }

    [Fact]
    public void ADentIsReadAsDeepAsItIs()
    {
        var (flatness, _) = Judge(p => OnTop(p) && (p - new Vector3D(9, 11, 20)).Length < 1.3 ? p with { Z = p.Z - 0.1 } : p);
        Assert.True(Math.Abs(flatness.Measured!.Value - 0.1) < flatness.Uncertainty!.Value,
            flatness.Measured + " " + flatness.Uncertainty + flatness.Method);
        Assert.Equal(Verdict.NonConforming, flatness.Verdict);
    }

    /// <summary>A lump 6 mm high on a face compared within 1 mm: no data in the map, and no conformity.</summary>
    [Fact]
    public void ALumpBeyondTheSearchDistanceCountsAgainstItsFace()
    {
        var (flatness, profile) = Judge(p => OnTop(p) && (p - new Vector3D(10, 10, 20)).Length < 4 ? p with { Z = p.Z + 6 } : p);
        Assert.NotEqual(Verdict.Conforming, flatness.Verdict);
        Assert.Equal(Verdict.NonConforming, profile.Verdict);
        Assert.Equal(12, profile.Measured!.Value, 0.1);
        Assert.Contains("hang together with it", profile.Remark, StringComparison.Ordinal);
    }

    /// <summary>A loose flake that stands 3 mm before the face.</summary>
    [Fact]
    public void WhatStandsBeforeAFaceKeepsItFromConforming()
    {
        var flake = Grid(6, 0.5, (x, y) => new(7 + x, 7 + y, 23));
        var (flatness, profile) = Judge(p => p, flake);
        Assert.Equal(Verdict.NotProven, flatness.Verdict);
        Assert.Equal(Verdict.NotProven, profile.Verdict);
        Assert.Contains("stand before it", flatness.Remark, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(13.9, 0.5, Verdict.NotProven)]
    [InlineData(2.1, 0.5, Verdict.Conforming)]
    [InlineData(13.9, 0.05, Verdict.Conforming)]
    public void AFaceThatIsMostlyMissingIsNotProven(double missing, double least, Verdict expected)
    {
        var whole = Scan(p => p);
        var rest = whole.KeepTriangles(t =>
            !(OnTop(whole.Triangle(t).A) && OnTop(whole.Triangle(t).B) && OnTop(whole.Triangle(t).C) && whole.Triangle(t).A.X < missing));
        var (flatness, profile) = Judge(rest, least);
        Assert.Equal(expected, flatness.Verdict);
        Assert.Equal(1 - (missing / 20), profile.Coverage, 0.08);
        Assert.Equal(expected == Verdict.NotProven, flatness.Remark?.Contains("are required", StringComparison.Ordinal) ?? false);
    }

    /// <summary>
    /// A datum stands for its whole feature: what is missing there, or grows from it, keeps what refers to it from conforming.
    /// </summary>
    [Theory]
    [InlineData("parallelism", 0, 0, Verdict.Conforming, null)]
    [InlineData("parallelism", 14, 0, Verdict.NotProven, "of a datum was measured")]
    [InlineData("position", 14, 0, Verdict.NotProven, "of a datum was measured")]
    [InlineData("position", 0, 4, Verdict.NotProven, "hang together with it")]
    public void TheEvidenceOfADatumCountsToo(string kind, double missing, double lump, Verdict expected, string? said)
    {
        static bool Below(Vector3D p) => p.Z < 0.1;
        var whole = Scan(p => Below(p) && (p - new Vector3D(10, 10, 0)).Length < lump ? p with { Z = -6 } : p);
        var rest = whole.KeepTriangles(t =>
            !(Below(whole.Triangle(t).A) && Below(whole.Triangle(t).B) && Below(whole.Triangle(t).C) && whole.Triangle(t).A.X < missing));
        var row = Rows(rest, kind == "position"
            ? new PositionPlan(1, "to the bottom") { Features = ["top"], Datums = ["A"], Tolerance = 0.3 }
            : new ParallelismPlan(1, "to the bottom") { Features = ["top"], Datums = ["A"], Tolerance = 0.3 })[0];
        Assert.Equal(expected, row.Verdict);
        Assert.Equal(said is not null, row.Remark?.Contains(said ?? "", StringComparison.Ordinal) ?? false);
    }

    /// <summary>One single point 0.3 mm off is stray data, left out and said.</summary>
    [Fact]
    public void AnIsolatedPointThatWouldChangeTheVerdictIsSaid()
    {
        var (flatness, _) = Judge(p => OnTop(p) && Math.Abs(p.X - 10) < 0.1 && Math.Abs(p.Y - 10) < 0.1 ? p with { Z = p.Z + 0.3 } : p);
        Assert.Equal(Verdict.Conforming, flatness.Verdict);
        Assert.Contains("1 isolated point", flatness.Remark, StringComparison.Ordinal);
        Assert.Contains("non-conforming", flatness.Remark, StringComparison.Ordinal);
    }

    private static bool OnTop(Vector3D p) => p.Z > 19.9;

    private static TriangleMesh Scan(Func<Vector3D, Vector3D> change)
    {
        var noise = new SeededNoise(8);
        var cube = Shapes.Cube(20, 40);
        return cube.WithCoordinates([.. Enumerable.Range(0, cube.VertexCount).SelectMany(v =>
            (change(cube.Vertex(v)) + (Noise * noise.Normal(v) * cube.Normal(v))).ToArray())]);
    }

    private static (CharacteristicResult Flatness, CharacteristicResult Profile) Judge(
        Func<Vector3D, Vector3D> change, TriangleMesh? besides = null)
    {
        var scan = Scan(change);
        return Judge(besides is null ? scan : new(
            [.. scan.Coordinates, .. besides.Coordinates], [.. scan.Indices, .. besides.Indices.Select(i => i + scan.VertexCount)]));
    }

    private static (CharacteristicResult Flatness, CharacteristicResult Profile) Judge(TriangleMesh scan, double? least = null)
    {
        var rows = Rows(
            scan,
            new FlatnessPlan(1, "flat") { Features = ["top"], Tolerance = 0.05, LeastCoverage = least },
            new SurfaceProfilePlan(2, "form") { Faces = [_top], Tolerance = 1.2, LeastCoverage = least });
        return (rows[0], rows[1]);
    }

    private static IReadOnlyList<CharacteristicResult> Rows(TriangleMesh scan, params CharacteristicPlan[] characteristics) =>
        _runner.Run(scan, new InspectionPlan
        {
            Prepare = new() { Steps = [] },
            Align = new AsGivenPlan { Start = RigidTransform.Identity.ToArray() },
            Compare = new() { MaxDistance = 1 },
            Features = [new("top", "Top", [_top]), new("bottom", "Bottom", [_bottom])],
            Datums = [new("A", ["bottom"])],
            Characteristics = characteristics,
            Device = new() { LengthError = 0 },
        }).Characteristics;

    private static TriangleMesh Grid(double size, double step, Func<double, double, Vector3D> at)
    {
        var n = (int)(size / step);
        List<double> points = [];
        List<int> triangles = [];
        for (var i = 0; i <= n; i++)
        {
            for (var j = 0; j <= n; j++)
            {
                points.AddRange(at(i * step, j * step).ToArray());
                if (i > 0 && j > 0)
                {
                    var v = (i * (n + 1)) + j;
                    triangles.AddRange([v - n - 2, v - 1, v, v - n - 2, v, v - n - 1]);
                }
            }
        }

        return new([.. points], [.. triangles]);
    }
}

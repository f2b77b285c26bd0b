using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Segmentation;

namespace Bostel.Core.Tests.Features;

/// <summary>A cube of 20 mm as the nominal, and scans of it that are wrong in a known way, in a frame of their own.</summary>
public class FeatureExtractionTests
{
    private const double Size = 20;
    private static readonly NominalModel _nominal = CadMeshSegmentation.Recognise(Shapes.Cube(Size, 2));
    private static readonly TriangleMesh _scan = Shapes.Cube(Size, 40);
    private static readonly RigidTransform _pose = RigidTransform.FromAxisAngle(new(2, -1, 1), 0.9) with { Translation = new(-60, 15, 40) };
    private static readonly int _top = _nominal.Faces.Single(f => f.Shape is Plane3D { Normal.Z: > 0.9 }).Id;

    /// <summary>
    /// z = 20 + 0.05 + 0.002 (x − 10) − 0.001 (y − 10) on top: the plane is found with its slopes, its normal as the nominal's.
    /// </summary>
    [Fact]
    public void AFaceMovedAndTiltedIsMeasuredSo()
    {
        var result = Measure(
            Scan(p => p.Z > 19.9 ? p with { Z = 20.05 + (0.002 * (p.X - 10)) - (0.001 * (p.Y - 10)) } : p), new("f", "Top", [_top]));
        var plane = Assert.IsType<Plane3D>(result.Shape);
        Assert.InRange(Vector3D.Distance(plane.Normal, new Vector3D(-0.002, 0.001, 1).Normalized()), 0, 1e-9);
        Assert.Equal(0, plane.Distance(new(10, 10, 20.05)), 1e-9);
        Assert.InRange(result.Form, 0, 1e-9);
        Assert.Equal(0, result.LeftOut.Count);
        Assert.Equal(1, result.Coverage, 0.01);
    }

    /// <summary>
    /// A dome of 0.1 mm on every face: whichever way a fit turns its normal, its middle stands out of the material and is positive.
    /// </summary>
    [Fact]
    public void ResidualsArePositiveOutOfTheMaterial()
    {
        foreach (var face in _nominal.Faces)
        {
            var normal = ((Plane3D)face.Shape!).Normal;
            var domed = Scan(p => Math.Abs(face.Shape.Distance(p)) < 1e-6
                ? p + (0.1 * Math.Exp(-(p - face.Center).LengthSquared / 20) * normal)
                : p);
            var result = Measure(domed, new("f", "Face", [face.Id]));
            Assert.All(result.Points.Chunk(3).Select(Vector3D.FromArray).Zip(result.Residuals),
                r => Assert.Equal(result.Shape.Distance(r.First), r.Second, 1e-9));
            Assert.Equal(result.Residuals.Max(), result.Residuals.MaxBy(Math.Abs));
        }
    }

    /// <summary>Vertices lie 0.5 mm apart: a margin of 2.2 mm leaves those from 2.5 to 17.5, 31 a row.</summary>
    [Theory]
    [InlineData(2.2, 31)]
    [InlineData(0.2, 39)]
    [InlineData(8.9, 5)]
    public void NothingNearerToTheBorderThanTheMarginIsUsed(double margin, int row)
    {
        var result = Measure(Scan(p => p), new("f", "Top", [_top]) { EdgeMargin = margin });
        Assert.Equal(row * row, result.Used);
        Assert.Equal(margin, result.EdgeMargin);
        Assert.Null(result.MarginCutFrom);
        for (var i = 0; i < result.Points.Length; i += 3)
        {
            var (x, y) = (result.Points[i], result.Points[i + 1]);
            Assert.True(Math.Min(Math.Min(x, y), Size - Math.Max(x, y)) > margin - 1e-9);
        }
    }

    /// <summary>Unless named the margin is three mean edges: (2·0.5 + 0.5·√2) / 3 each, 1.707 mm in all.</summary>
    [Fact]
    public void TheUsualMarginIsThreeEdges() =>
        Assert.Equal(1 + (0.5 * Math.Sqrt(2)), Measure(Scan(p => p), new("f", "Top", [_top])).EdgeMargin, 1e-9);

    /// <summary>
    /// Five single points 0.3 mm deep in a face with noise of 0.01 mm are left out and told, also when they lie beyond the search distance.
    /// </summary>
    [Theory]
    [InlineData(1)]
    [InlineData(0.2)]
    public void IsolatedPointsAreLeftOutAndTold(double search)
    {
        var random = new Random(3);
        (double, double)[] dents = [(5, 5), (10, 12), (8, 3.5), (15, 15), (4, 16)];
        var scan = Scan(p => p.Z > 19.9
            ? p with { Z = dents.Contains((Math.Round(p.X, 6), Math.Round(p.Y, 6))) ? 19.7 : 20 + (0.01 * ((2 * random.NextDouble()) - 1)) }
            : p);
        var result = Measure(scan, new("f", "Top", [_top]) { SearchDistance = search });
        Assert.Equal(5, result.LeftOut.Count);
        Assert.Equal(-0.3, result.LeftOut.Extreme, 1e-9);

        // A point of a grid of 0.5 mm stands for 0.25 mm²; the slopes around the dents add some.
        Assert.InRange(result.LeftOut.Area, 5 * 0.25, 5 * 0.45);

        // The plane tilts by its noise: 3 sigma of it over the face are 0.0006 mm.
        Assert.InRange(result.Form, 0.015, 0.0206);

        // Uniform within ±0.01 mm: a standard deviation of 0.01/√3, known to 1/√(2n), three times over.
        Assert.Equal(0.01 / Math.Sqrt(3), result.Scatter, 3 * 0.01 / Math.Sqrt(3) / Math.Sqrt(2 * result.Used));
    }

    /// <summary>What hangs together is the part: a step over a fifth of the face, a dent of four points, both far beyond noise.</summary>
    [Theory]
    [InlineData(1)]
    [InlineData(0.1)]
    public void NothingThatHangsTogetherIsLeftOut(double search)
    {
        var random = new Random(4);
        var stepped = Measure(
            Scan(p => p.Z > 19.9 ? p with { Z = (p.X > 14.1 ? 20.2 : 20) + (0.004 * random.NextDouble()) } : p),
            new("f", "Top", [_top]) { SearchDistance = search });
        Assert.Equal(0, stepped.LeftOut.Count);

        // The least-squares plane tilts toward a step of 0.2; over points that step, no plane spreads them by less than half of it.
        Assert.InRange(stepped.Form, 0.1, 0.21);

        var dent = Measure(
            Scan(p => p.Z > 19.9 && Math.Abs(p.X - 10.25) < 0.3 && Math.Abs(p.Y - 10.25) < 0.3 ? p with { Z = 19.8 } : p),
            new("f", "Top", [_top]) { SearchDistance = search });
        Assert.Equal(0, dent.LeftOut.Count);

        // The plane is drawn toward 4 of 1089 points, and tilts about as much: 3·0.2·4/1089.
        Assert.Equal(0.2, dent.Form, 0.0022);
    }

    /// <summary>A rib 2 mm wide has no point three edges from its borders; it is measured in the inner half of its width.</summary>
    [Fact]
    public void ANarrowFaceIsMeasuredInTheMarginItCanBear()
    {
        var plate = CadMeshSegmentation.Recognise(Shapes.Cube(2, 1));
        var top = plate.Faces.Single(f => f.Shape is Plane3D { Normal.Z: > 0.9 }).Id;
        var scan = Shapes.Cube(2, 10);
        var aligned = new AlignedScan(
            scan, RigidTransform.Identity, Deviation.Compute(scan, RigidTransform.Identity, plate, new(plate.Mesh), new(2)));
        var result = FeatureExtraction.Measure(new("f", "Rib", [top]), aligned, plate);

        // Rows 0.2 mm apart, those from 0.6 to 1.4: half the width is 1 mm, known from samples to a few hundredths.
        Assert.Equal(5 * 5, result.Used);
        Assert.InRange(result.EdgeMargin, 0.44, 0.5);
        Assert.True(result.MarginCutFrom >= 0.5);
    }

    /// <summary>
    /// Points up to x = 8 only: of the face inside the margin, from 1.707 to 18.293, that is 6.293 of 16.586, and what lies within reach
    /// beside it.
    /// </summary>
    [Fact]
    public void CoverageIsTheShareOfTheFaceThatHasPoints()
    {
        var whole = Scan(p => p);
        var half = whole.KeepTriangles(t => _pose.Inverse().Apply(whole.Triangle(t).A).X < 7.9
            && _pose.Inverse().Apply(whole.Triangle(t).B).X < 8.1 && _pose.Inverse().Apply(whole.Triangle(t).C).X < 8.1);
        var coverage = Measure(half, new("f", "Top", [_top])).Coverage;
        Assert.InRange(coverage, (6.293 / 16.586) - 0.02, ((6.293 + 1.7) / 16.586) + 0.02);
    }

    [Fact]
    public void WhatCannotBeMeasuredIsSaidByName()
    {
        var side = _nominal.Faces.First(f => f.Id != _top && Math.Abs(((Plane3D)f.Shape!).Normal.Z) < 0.1).Id;
        Says("no faces are named", new("f", "Lid", []));
        Says("the nominal has no face 99", new("f", "Lid", [99]));
        Says("do not lie on one surface", new("f", "Lid", [_top, side]));
        Says("only 0 scan points", new("f", "Lid", [_top]) { EdgeMargin = 10.1 });
        var free = NominalModel.OfSurface(_nominal.Mesh);
        var aligned = Aligned(Scan(p => p), free);
        Assert.Contains("freeform", Assert.Throws<BadInputException>(
            () => FeatureExtraction.Measure(new("f", "Lid", [0]), aligned, free)).Message);

        static void Says(string what, FeaturePlan plan) =>
            Assert.Contains(what, Assert.Throws<BadInputException>(() => Measure(Scan(p => p), plan)).Message);
    }

    /// <summary>
    /// Points on a face, for profile, edges included: beyond the search distance too as long as they hang together with others.
    /// </summary>
    [Fact]
    public void VerticesOfAFaceAreThoseNearestToItAndWhatHangsTogetherWithThem()
    {
        var aligned = Aligned(Scan(p => p.Z > 19.9 ? p with { Z = p.X > 10.1 ? 20.4 : 20.1 } : p), _nominal);
        var found = FeatureExtraction.VerticesOn([_top], aligned, _nominal, 0.2);

        // 41 rows of 41; on the border the closest point may be counted to the side.
        Assert.InRange(found.Count, 39 * 39, 41 * 41);
        Assert.Equal(found.Order(), found);
    }

    private static FeatureResult Measure(TriangleMesh scan, FeaturePlan plan) =>
        FeatureExtraction.Measure(plan, Aligned(scan, _nominal), _nominal);

    private static AlignedScan Aligned(TriangleMesh scan, NominalModel nominal)
    {
        var back = _pose.Inverse();
        return new(scan, back, Deviation.Compute(scan, back, nominal, new(nominal.Mesh), new(2)));
    }

    /// <summary>The cube's fine mesh changed point by point, then moved away from its nominal.</summary>
    private static TriangleMesh Scan(Func<Vector3D, Vector3D> change) =>
        _scan.WithCoordinates([.. Enumerable.Range(0, _scan.VertexCount).SelectMany(v => change(_scan.Vertex(v)).ToArray())])
            .Transformed(_pose);
}

using Bostel.Benchmarks;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Spatial;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Comparison;

/// <summary>Deviations of known making, taken apart: fields planted on even samples of a demo part, with noise.</summary>
public class ExplanationTests
{
    private const double Noise = 0.01, Spacing = 1, Device = 0.002;

    private static readonly NominalModel _clamp = DemoParts.Model("RC-077");
    private static readonly Vector3D _center = _clamp.Mesh.Bounds.Center;
    private static readonly Vector3D _half = 0.5 * _clamp.Mesh.Bounds.Size;
    private static readonly SurfaceReading[] _clean = Samples();

    private static readonly NominalFace _plane = _clamp.Faces.Where(f => f.Shape is Plane3D).MaxBy(f => f.Area)!;
    private static readonly NominalFace _bore =
        _clamp.Faces.Where(f => f.Shape is Cylinder3D && f.Internal && f.Sweep > 6).MaxBy(f => f.Area)!;


    private static int Longest => Enumerable.Range(0, 3).MaxBy(k => _half[k]);

    private static int Shortest => Enumerable.Range(0, 3).MinBy(k => _half[k]);

    /// <summary>In one part of a hundred chance makes something: of twelve more than one would be chance one time in a hundred.</summary>
    [Fact]
    public void OfNoiseAloneNothingIsStated()
    {
        var told = Enumerable.Range(1, 12).Select(seed => Explain(seed, (_, _, _) => 0)).ToList();
        Assert.InRange(told.Count(t => t.Findings.Count > 0), 0, 1);
        Assert.All(told.Where(t => t.Findings.Count == 0), t => Assert.Equal(t.Rms, t.Steps[^1].Left));
    }

    [Fact]
    public void ShrinkageIsOneNumberWhereItIsEqualAndThreeWhereItIsNot()
    {
        var equal = Assert.IsType<SizeFinding>(Assert.Single(Explain(1, (p, n, _) => -0.002 * (p - _center).Dot(n)).Findings));
        Holds(-0.2, Assert.Single(equal.Percent));

        double[] strain = [-0.002, 0.001, -0.003];
        var told = Explain(2, (p, n, _) => Enumerable.Range(0, 3).Sum(k => strain[k] * (p - _center)[k] * n[k]));
        var each = Assert.IsType<SizeFinding>(Assert.Single(told.Findings));
        for (var k = 0; k < 3; k++)
        {
            Holds(100 * strain[k], each.Percent[k]);
        }
    }

    [Fact]
    public void BendAndTwistAreTold()
    {
        var (along, toward) = (Longest, Shortest);
        var bent = Explain(13, (p, n, _) => 0.2 * Math.Pow((p - _center)[along] / _half[along], 2) * n[toward]);
        var bend = Assert.IsType<BendFinding>(Assert.Single(bent.Findings));
        Assert.Equal((along, toward), (bend.Along, bend.Toward));
        Holds(0.2, bend.Height);

        // Half a degree from end to end: a quarter at either.
        var axis = Enumerable.Range(0, 3).Select(k => k == along ? 1.0 : 0).ToArray();
        var twisted = Explain(4, (p, n, _) =>
            0.25 * Math.PI / 180 * (p - _center)[along] / _half[along] * Vector3D.FromArray(axis).Cross(p - _center).Dot(n));
        Holds(0.5, Assert.IsType<TwistFinding>(Assert.Single(twisted.Findings)).Angle);
    }

    [Fact]
    public void OneFaceThatStandsHighBendsNothingElse()
    {
        var told = Explain(5, (_, _, face) => face == _plane.Id ? 0.12 : 0);
        var offset = Assert.IsType<OffsetFinding>(Assert.Single(told.Findings));
        Assert.Equal((_plane.Id, 0), (offset.Face, offset.Round));
        Holds(0.12, offset.Height);
        Assert.Equal("Flange stands 0.12", offset.Words(_ => "Flange")[..18]);
    }

    [Fact]
    public void AFaceThatLeansIsToldByAngleAndAxis()
    {
        var normal = ((Plane3D)_plane.Shape!).Normal;
        var axis = normal.Perpendicular();
        var turn = 0.1 * Math.PI / 180 * axis;
        var middle = _clean.Where(r => r.Face == _plane.Id).Aggregate(Vector3D.Zero, (s, r) => s + r.Point)
            / _clean.Count(r => r.Face == _plane.Id);
        var told = Explain(6, (p, n, face) => face == _plane.Id ? turn.Cross(p - middle).Dot(n) : 0);
        var leans = Assert.IsType<TurnFinding>(Assert.Single(told.Findings));
        Holds(0.1, leans.Turn);
        Assert.InRange(Vector3D.FromArray(leans.Axis).Dot(axis), 0.99, 1);
    }

    [Fact]
    public void ABoreIsTooWideOrBesideItsPlace()
    {
        // Material of the bore's wall is 0.05 back: its diameter is 0.1 larger.
        var wide = Explain(7, (_, _, face) => face == _bore.Id ? -0.05 : 0);
        var larger = Assert.IsType<OffsetFinding>(Assert.Single(wide.Findings));
        Assert.Equal(1, larger.Round);
        Holds(-0.05, larger.Height);
        Assert.EndsWith("too large in diameter.", larger.Words(_ => "Bore"));

        var shift = 0.08 * ((Cylinder3D)_bore.Shape!).Axis.Perpendicular();
        var moved = Assert.IsType<ShiftFinding>(Assert.Single(Explain(8, (_, n, face) => face == _bore.Id ? shift.Dot(n) : 0).Findings));
        Holds(0.08, moved.By);
        Assert.True(Vector3D.Distance(shift, Vector3D.FromArray(moved.Shift)) < moved.By.U);
    }

    [Fact]
    public void FacesThatMovedTogetherAreOneFinding()
    {
        // Both sides that look along the longest axis, the same way: not a part that is longer, but a core that stood beside its place.
        var normals = _clamp.Faces.Where(f => f.Shape is Plane3D p && Math.Abs(p.Normal[Longest]) > 0.999 && f.Area > 100)
            .OrderByDescending(f => f.Area).ToList();
        int[] core = [normals[0].Id, normals.First(f => ((Plane3D)f.Shape!).Normal.Dot(((Plane3D)normals[0].Shape!).Normal) < 0).Id];
        var shift = new Vector3D(Longest == 0 ? 0.3 : 0, Longest == 1 ? 0.3 : 0, Longest == 2 ? 0.3 : 0);
        var told = Explain(9, (_, n, face) => core.Contains(face) ? shift.Dot(n) : 0);
        var together = Assert.IsType<SharedShiftFinding>(Assert.Single(told.Findings));
        Assert.Equal(core.Order(), together.Faces);
        Holds(0.3, together.By);
        Assert.True(Vector3D.FromArray(together.Shift)[Longest] > 0);
    }

    [Fact]
    public void ABowIsToldByTheHeightOfItsMiddle()
    {
        var own = _clean.Where(r => r.Face == _plane.Id).ToList();
        var middle = own.Aggregate(Vector3D.Zero, (s, r) => s + r.Point) / own.Count;
        var along = Enumerable.Range(0, 3).MaxBy(k => own.Max(r => Math.Abs((r.Point - middle)[k])));
        var reach = own.Max(r => Math.Abs((r.Point - middle)[along]));
        var told = Explain(10, (p, _, face) => face == _plane.Id ? -0.1 * Math.Pow((p - middle)[along] / reach, 2) : 0);
        Holds(0.1, told.Findings.OfType<FormFinding>().Single().AlongU);
        Assert.All(told.Findings, f => Assert.Equal([_plane.Id], f.OnFaces));
    }

    [Fact]
    public void ShiftAndTurnThatTheAlignmentLeftAreStated()
    {
        var (shift, turn) = (new Vector3D(0.03, 0, -0.05), 0.0005 * Vector3D.UnitZ);
        var pose = Assert.IsType<PoseFinding>(Assert.Single(Explain(11, (p, n, _) => (shift + turn.Cross(p - _center)).Dot(n)).Findings));
        for (var k = 0; k < 3; k++)
        {
            Holds(shift[k], pose.Shift[k]);
            Holds(turn[k] * 180 / Math.PI, pose.Turn[k]);
        }
    }

    [Fact]
    public void TogetherEachIsFoundAndNoiseIsLeft()
    {
        var along = Longest;
        var told = Explain(12, (p, n, face) => (-0.002 * (p - _center).Dot(n))
            + (0.15 * Math.Pow((p - _center)[along] / _half[along], 2) * n[Shortest])
            + (face == _plane.Id ? 0.12 : 0) + (face == _bore.Id ? -0.05 : 0));
        Holds(-0.2, told.Findings.OfType<SizeFinding>().Single().Percent[0]);
        Holds(0.15, told.Findings.OfType<BendFinding>().Single().Height);
        Holds(0.12, told.Findings.OfType<OffsetFinding>().Single(f => f.Face == _plane.Id).Height);
        Holds(-0.05, told.Findings.OfType<OffsetFinding>().Single(f => f.Face == _bore.Id).Height);
        Assert.Equal(4, told.Findings.Count);

        // The cells average some readings each: what is left is less than the noise of one.
        Assert.True(told.Steps[^1].Left < Noise);
        Assert.Equal(Enum.GetValues<ExplainedPart>(), told.Steps.Select(s => s.Part));
    }

    /// <summary>
    /// Random errors of random size: 95 % are to lie within U. Of 40 values fewer than 34 would be chance one time in a hundred.
    /// </summary>
    [Fact]
    public void TheUncertaintyHoldsTheTruth()
    {
        var random = new Random(4);
        var held = 0;
        for (var trial = 0; trial < 20; trial++)
        {
            var (size, height) = (0.004 * (random.NextDouble() - 0.5), 0.1 + (0.1 * random.NextDouble()));
            var told = Explain(100 + trial, (p, n, face) => (size * (p - _center).Dot(n)) + (face == _plane.Id ? height : 0));
            held += told.Findings.OfType<SizeFinding>().Any(s => Math.Abs(s.Percent[0].Value - (100 * size)) <= s.Percent[0].U) ? 1 : 0;
            held += told.Findings.OfType<OffsetFinding>().Any(f => Math.Abs(f.Height.Value - height) <= f.Height.U) ? 1 : 0;
        }

        Assert.InRange(held, 34, 40);
    }

    [Fact]
    public void ErrorsPlantedWithTheScannerAreFoundAndNothingElse()
    {
        var campaign = new ExplainedCampaign(_clamp, _clamp.Mesh.Bounds.Diagonal / 150, Noise);
        Assert.All(Enumerable.Range(1, 3).Select(campaign.Run), trial => Assert.Empty(trial.Wrong));
    }

    [Fact]
    public void AFaceTwistedInItselfIsToldByItsCorners()
    {
        var own = _clean.Where(r => r.Face == _plane.Id).ToList();
        var middle = own.Aggregate(Vector3D.Zero, (s, r) => s + r.Point) / own.Count;
        var normal = ((Plane3D)_plane.Shape!).Normal;
        var across = Enumerable.Range(0, 3).Where(k => Math.Abs(normal[k]) < 0.5).ToArray();
        double Share(Vector3D p, int k) => (p - middle)[across[k]] / own.Max(r => Math.Abs((r.Point - middle)[across[k]]));
        var told = Explain(14, (p, _, face) => face == _plane.Id ? 0.1 * Share(p, 0) * Share(p, 1) : 0);
        var form = Assert.Single(told.Findings.OfType<FormFinding>());
        Holds(0.1, form.Crosswise with { Value = Math.Abs(form.Crosswise.Value) });
        Assert.Contains("is twisted: its corners stand 0.1", form.Words(_ => "Face"));
        Assert.All(told.Findings, f => Assert.Equal([_plane.Id], f.OnFaces));
    }

    /// <summary>
    /// A clamp 0.6 % too small: what is left without its size is the noise that every vertex has, on narrow rounds too, over which the part
    /// has slid by tenths of a millimetre.
    /// </summary>
    [Fact]
    public void TheMapOfWhatIsLeftIsTheDeviationWithoutWhatIsTakenOut()
    {
        var mesh = SimulatedScanner.Scan(_clamp, new()
        {
            Seed = 6,
            Spacing = Spacing,
            Noise = Noise,
            RandomPose = false,
            StrayPieces = 0,
            TablePatch = false,
            Errors = [new("shrunk", [], 0.6)],
        }).Mesh;
        var (runner, plan) = (new InspectionRunner(_clamp), new InspectionPlan { Compare = new() { Explain = true } });
        var deviations = Deviation.Compute(mesh, RigidTransform.Identity, _clamp, runner.Tree, runner.SearchLimits(plan));
        var scan = new AlignedScan(mesh, RigidTransform.Identity, deviations);
        var left = runner.Map(new RemainingMap { Name = "left" }, scan, BesideScan.Alone(mesh), plan);
        Assert.Equal("deviation that is left without shift and turn, shrinkage or growth, bend and twist", left.Plan.Words(plan));

        // By the middle of all values: edges, which a scan rounds, are not explained.
        double Middle(double[] values)
        {
            var sizes = values.Where(double.IsFinite).Select(Math.Abs).Order().ToList();
            return sizes[sizes.Count / 2];
        }

        Assert.InRange(Middle(left.Values), 0.6 * 0.6745 * Noise, 1.2 * 0.6745 * Noise);
        Assert.True(Middle(deviations.Values) > 3 * Noise);
        var narrow = Enumerable.Range(0, mesh.VertexCount).Where(v => deviations.Triangles[v] is var t and >= 0
            && _clamp.Faces[_clamp.FaceOfTriangle[t]].Shape is Cylinder3D { Radius: < 7 }).Select(v => left.Values[v]).ToArray();
        Assert.True(narrow.Length > 300);
        Assert.InRange(Middle(narrow), 0.6 * 0.6745 * Noise, 1.2 * 0.6745 * Noise);

        // No pose stands out of what was not moved: taking it out changes nothing. A plan that does not ask is told nothing.
        var unmoved = runner.Map(new RemainingMap { Name = "p", Without = [ExplainedPart.Pose] }, scan, BesideScan.Alone(mesh), plan);
        Assert.Equal(deviations.Values, unmoved.Values);
        Assert.Single(runner.Explained(scan, plan)!.Made!.Findings);
        Assert.Null(runner.Explained(scan, new()));
    }

    [Fact]
    public void AFaceIsNamedByTheSmallestFeatureThatItIsOf()
    {
        var plan = new InspectionPlan { Features = [new("a", "Both", [3, 4]), new("b", "Foot", [4])] };
        var name = PieceExplanation.Names(plan, _clamp);
        Assert.Equal(("Both (face 3)", "Foot", $"Face 5 ({_clamp.Face(5).Kind})"), (name(3), name(4), name(5)));
    }

    [Fact]
    public void OfTooLittleNothingIsTold()
    {
        var some = _clean.Where(r => r.Face == _plane.Id).ToList();
        var said = Assert.Throws<BadInputException>(() => Explanation.Of(some, Spacing, _clamp, Device));
        Assert.StartsWith("Too little of the part was measured", said.Message);
        var bare = NominalModel.OfSurface(_clamp.Mesh);
        var none = Assert.Throws<BadInputException>(
            () => Explanation.Of([.. _clean.Select(r => r with { Face = 0 })], Spacing, bare, Device));
        Assert.StartsWith("The nominal has no faces to be told apart", none.Message);
    }

    [Theory]
    [InlineData(0.12345, 0.0123, "0.123 ± 0.012 mm")]
    [InlineData(-4.5, 1.2, "4.5 ± 1.2 mm")]
    [InlineData(2, 0.00001, "2.0000 ± 0.0000 mm")]
    public void AValueIsSaidWithTwoDigitsOfItsUncertainty(double value, double u, string said) =>
        Assert.Equal(said, new Found(value, u).Say("mm"));

    private static void Holds(double truth, Found found) => Assert.InRange(found.Value, truth - found.U, truth + found.U);

    /// <param name="field">Deviation at a place with its normal and face.</param>
    private static Explanation Explain(int seed, Func<Vector3D, Vector3D, int, double> field)
    {
        var noise = new SeededNoise(seed);
        return Explanation.Of(
            [.. _clean.Select((r, i) => r with { Value = field(r.Point, r.Normal, r.Face) + (Noise * noise.Normal(i)) })], Spacing, _clamp,
            Device);
    }

    private static SurfaceReading[] Samples()
    {
        var even = SurfaceSamples.Even(_clamp.Mesh, 20_000);
        var tree = new TriangleTree(_clamp.Mesh);
        return [.. Enumerable.Range(0, even.Count).Select(i => new SurfaceReading(
            even.Points[i], even.Normals[i], _clamp.FaceOfTriangle[tree.Closest(even.Points[i]).Triangle], 0, 1))];
    }
}

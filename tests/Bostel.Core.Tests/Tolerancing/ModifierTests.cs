using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>Projected zones, tangent planes, datums in common and datums that hold the direction alone, against closed forms.</summary>
public class ModifierTests
{
    private const double Lean = 0.004;
    private static readonly Vector3D Up = Vector3D.UnitZ;

    private static readonly Datum A = new("A", [Plane("A", Vector3D.Zero, -Up)]);
    private static readonly Datum B = new("B", [Plane("B", Vector3D.Zero, -Vector3D.UnitY)]);
    private static readonly Datum C = new("C", [Plane("C", Vector3D.Zero, -Vector3D.UnitX)]);
    private static readonly DatumSystem Three = DatumSystem.Build([A, B, C]);

    /// <summary>A thread in the plate below A, in its place there, leaning by L: a bolt of 25 mm stands 25 tan L off at its head.</summary>
    [Theory]
    [InlineData(25, false)]
    [InlineData(40, true)]
    public void AProjectedZoneIsJudgedOutsideTheHole(double length, bool downward)
    {
        var axis = downward ? -Up : Up;
        var hole = Bore("t", new Vector3D(40, 25, downward ? 0 : -12), axis, new(40, 25, 0), Lean);
        Assert.Equal(2 * length * Math.Tan(Lean), Location.Position([hole], Three, true, projectedBy: length).Value, 1e-6);
        Assert.Equal(2 * 12 * Math.Tan(Lean), Location.Position([hole], Three, true).Value, 1e-6);

        var alone = DatumSystem.Build([A]);
        Assert.Equal(length * Math.Tan(Lean), Orientation.Perpendicularity(hole, alone, null, true, length).Value, 1e-6);
        Refused("goes out of the plane of its first datum",
            () => Location.Position([hole], DatumSystem.Build([C, A]), true, projectedBy: length));
    }

    /// <summary>
    /// A hollow face whose rim leans by L over its width of 20: the surface is out by the hollow too, its tangent plane is not.
    /// </summary>
    [Fact]
    public void ATangentPlaneDoesNotSeeTheHollow()
    {
        const double Hollow = 0.08, Half = 10;
        var points = new List<double>();
        for (var x = -Half; x <= Half; x++)
        {
            for (var y = -Half; y <= Half; y++)
            {
                var dip = Hollow * Math.Max(0, 1 - (((x * x) + (y * y)) / (Half * Half)));
                points.AddRange([x, y, 30 + (Math.Tan(Lean) * x) - dip]);
            }
        }

        var face = MadeFeature.Fitted("f", new Plane3D(new(0, 0, 30), Up), [.. points]);
        var known = new Known { Start = face.Shape, Outward = Up };
        var tangent = face with { Shape = ExtremalFit.Fit("plane", Criterion.OuterTangent, face.Points, known).Shape };
        var one = DatumSystem.Build([A]);

        // The tangent plane rests on the rim, which is a plane; it reaches over 20 mm along x.
        Assert.Equal(2 * Half * Math.Sin(Lean), Orientation.OfTangentPlane(tangent, one).Value, 1e-5);
        Assert.True(Orientation.Parallelism(face, one, null).Raw > Hollow, "the surface itself holds the hollow");
        Refused("has no tangent plane", () => Orientation.OfTangentPlane(Bore("h", Vector3D.Zero, Up, Vector3D.Zero, 0), one));
    }

    /// <summary>A leaning wall square to A: with A alone the zone turns about A with it, with B it may not.</summary>
    [Fact]
    public void ATangentPlaneTurnsAboutItsDatumUnlessThatIsHeld()
    {
        var turn = RigidTransform.FromAxisAngle(Up, 0.01);
        double[] points = [.. new[] { (-10, 0), (10, 0), (10, 8), (-10, 8), (0, 4) }
            .SelectMany(p => turn.Apply(new(p.Item1, 30, p.Item2)).ToArray())];
        var wall = MadeFeature.Fitted("w", new Plane3D(new(0, 30, 0), Vector3D.UnitY), points);
        Assert.Equal(0, Orientation.OfTangentPlane(wall, DatumSystem.Build([A])).Value, 1e-9);
        Assert.Equal(20 * Math.Sin(0.01), Orientation.OfTangentPlane(wall, DatumSystem.Build([A, B])).Value, 1e-3 * 20 * 0.01);
    }

    /// <summary>
    /// A pattern that is moved as a whole is in its place among itself; one hole moved by s more lies s off the best middle.
    /// </summary>
    [Fact]
    public void WhereDatumsHoldTheDirectionAlonePlacesCountAmongThemselves()
    {
        var together = new Vector3D(0.3, -0.2, 0);
        FeatureResult[] Pattern(Vector3D one) => [.. Enumerable.Range(0, 4).Select(k =>
        {
            var place = new Vector3D(20 * (k % 2), 20 * (k / 2), 0);
            return Bore($"h{k}", place, Up, place + together + (k == 0 ? one : Vector3D.Zero), 0);
        })];
        var still = Pattern(Vector3D.Zero);
        Assert.Equal(2 * together.Length, Location.Position(still, Three, true).Value, 1e-7);
        Assert.Equal(0, Location.Position(still, Three, true, orientationOnly: true).Value, 1e-6);

        // The middle between the moved hole and the others: half of s for each, twice that as a diameter.
        var moved = Pattern(new(0.12, 0, 0));
        Assert.Equal(0.12, Location.Position(moved, Three, true, orientationOnly: true).Value, 2e-4);
    }

    /// <summary>
    /// Two bearing seats, each d off its place to opposite sides: their common axis leans and goes through what lies midway; the first
    /// alone is off by d there.
    /// </summary>
    [Fact]
    public void ACommonDatumIsOneAxisThroughBoth()
    {
        var d = new Vector3D(0.02, 0, 0);
        var seats = new Datum("A-B", [
            Bore("a", new(0, 0, 0), Up, d, 0), Bore("b", new(0, 0, 100), Up, new Vector3D(0, 0, 100) - d, 0)]);
        var middle = Bore("m", new(0, 0, 50), Up, new(0, 0, 50), 0);
        var common = Coaxiality.Of(middle, DatumSystem.Build([seats]), true);
        Assert.Equal(2 * 6 * Math.Tan(0.04 / 100), common.Value, 1e-5);
        Assert.Equal(2 * 0.02, Coaxiality.Of(middle, DatumSystem.Build([new("A", [seats.Features[0]])]), true).Value, 1e-7);
        Assert.Equal(["A", "B"], new PositionPlan(1, "p") { Datums = ["A-B"] }.Refers.Letters);
    }

    /// <summary>The standard answers what a row leaves open, and nothing else.</summary>
    [Fact]
    public void TheStandardAnswersWhatARowLeavesOpen()
    {
        var open = new PositionPlan(1, "p");
        Assert.True(((PositionPlan)open.By(DrawingStandard.Asme)).StraightAxis);
        Assert.Null(((PositionPlan)open.By(DrawingStandard.Iso)).StraightAxis);
        Assert.False(((PositionPlan)(open with { StraightAxis = false }).By(DrawingStandard.Asme)).StraightAxis);
        Assert.Equal(SizeKind.Envelope, ((DiameterPlan)new DiameterPlan(1, "d").By(DrawingStandard.Asme)).Size);
        Assert.Equal(
            SizeKind.Global, ((DiameterPlan)(new DiameterPlan(1, "d") { Size = SizeKind.Global }).By(DrawingStandard.Asme)).Size);
    }

    [Theory]
    [InlineData("⌀0.2 M P25|A|B", "position", "⌀0.2 M P25|A|B")]
    [InlineData("0.1Ⓣ|A", "parallelism", "0.1 T|A")]
    [InlineData("⌀.25|A><|B ><", "position", "⌀0.25|A ><|B ><")]
    [InlineData("0.05|A - B", "coaxiality", "⌀0.05|A-B")]
    public void ModifiersAreWrittenAndReadAgain(string written, string kind, string again)
    {
        var plan = Clamp(kind);
        var row = AsDrawn.Changed(DemoParts.Model("RC-077"), plan, plan.Characteristics[0], written);
        Assert.Equal(again, Assert.Single(AsDrawn.Of(DemoParts.Model("RC-077"), plan with { Characteristics = [row] })).Text);
    }

    [Theory]
    [InlineData("⌀0.2|A ><|B", "position", "with every datum or with none")]
    [InlineData("⌀0.2 T|A", "position", "T belongs to")]
    [InlineData("0.2|A ><", "perpendicularity", ">< belongs to a position")]
    [InlineData("0.2 P10", "flatness", "P needs an axis")]
    [InlineData("⌀0.2|A-X", "position", "The plan has no datum X")]
    public void AModifierThatDoesNotFitIsSaid(string written, string kind, string why)
    {
        var plan = Clamp(kind);
        Refused(why, () => AsDrawn.Changed(DemoParts.Model("RC-077"), plan, plan.Characteristics[0], written));
    }

    /// <summary>In a plan in inches a tolerance is written in inches; angles stay degrees.</summary>
    [Fact]
    public void InchesAreWrittenAsInches()
    {
        var plan = Clamp("position") with { Shown = ShownUnit.Inch };
        var nominal = DemoParts.Model("RC-077");
        var row = AsDrawn.Changed(nominal, plan, plan.Characteristics[0], "⌀.014 P1|A");
        Assert.Equal((0.014 * 25.4, 25.4), (((PositionPlan)row).Tolerance!.Value, ((PositionPlan)row).ProjectedBy!.Value));
        Assert.Equal("⌀0.014 P1|A", Assert.Single(AsDrawn.Of(nominal, plan with { Characteristics = [row] })).Text);

        var bore = AsDrawn.Changed(nominal, plan, new DiameterPlan(2, "d") { Features = ["bore"], Nominal = 12.7 }, ".5 +.002/-.001");
        Assert.Equal((0.0508, -0.0254), (Math.Round(bore.Limits.Upper!.Value - 12.7, 9), Math.Round(bore.Limits.Lower!.Value - 12.7, 9)));
        var angle = AsDrawn.Changed(nominal, plan, new AnglePlan(3, "a") { Features = ["a", "b"], Nominal = 30 }, "30 ±0.5");
        Assert.Equal(30.5, angle.Limits.Upper);
    }

    /// <summary>A row of a kind over a bore of the clamp, with its base as datums A and B.</summary>
    private static InspectionPlan Clamp(string kind)
    {
        var nominal = DemoParts.Model("RC-077");
        var bore = nominal.Faces.First(f => f.Shape is Cylinder3D && f.Internal).Id;
        var plane = nominal.Faces.First(f => f.Shape is Plane3D).Id;
        return InspectionPlan.Parse($$"""
            {"schema": "{{InspectionPlan.Version}}", "part": "X",
             "features": [{"id": "bore", "name": "Bore", "faces": [{{bore}}]}, {"id": "base", "name": "Base", "faces": [{{plane}}]}],
             "datums": [{"label": "A", "features": ["base"]}, {"label": "B", "features": ["bore"]}],
             "characteristics": [{"kind": "{{kind}}", "no": 1, "name": "r",
                "features": ["{{(kind is "flatness" or "parallelism" ? "base" : "bore")}}"],
                {{(kind == "flatness" ? "" : "\"datums\": [\"A\"],")}} "tolerance": 1}]}
            """);
    }

    private static void Refused(string why, Action act) =>
        Assert.Contains(why, Assert.Throws<BadInputException>(act).Message, StringComparison.Ordinal);

    private static FeatureResult Plane(string id, Vector3D at, Vector3D normal)
    {
        var (u, v) = (normal.Perpendicular(), normal.Cross(normal.Perpendicular()));
        double[] points = [.. new[] { 10 * u, -10 * u, 10 * v, -10 * v }.SelectMany(p => (at + p).ToArray())];
        return new(new(id, id, [0]), new(0, "plane", 1, false, 0, 0, 0, at) { Shape = new Plane3D(at, normal) },
            new Plane3D(at, normal), points, new double[4])
        { Areas = [1, 1, 1, 1] };
    }

    /// <summary>A bore of 12 mm from a place along an axis, made through another place and leaning about y.</summary>
    private static FeatureResult Bore(string id, Vector3D start, Vector3D axis, Vector3D through, double lean)
    {
        var made = RigidTransform.FromAxisAngle(Vector3D.UnitY, lean).Rotate(axis);
        var nominal = new Cylinder3D(start, axis, 3);
        return new(new(id, id, [0]), new(0, "cylinder", 1, true, 0, 12, 6.28, start + (6 * axis)) { Shape = nominal },
            new Cylinder3D(through, made, 3), [.. (through + (3 * Vector3D.UnitX)).ToArray()], [0])
        { Areas = [1] };
    }
}

using System.Text.Json;
using Bostel.Cad;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Plans;

/// <summary>
/// Plans that come from what a drawing says: product information in a CAD file, against a list that was made with that file, and tables.
/// </summary>
public class DrawingProposalTests
{
    private static readonly string Drawings = Path.Combine(DemoParts.Root, "demo", "drawings");

    private static readonly Lazy<NominalModel> Informed = new(() => CadTranslator.ReadAsync(
        Path.Combine(Drawings, "VH-310-vent-drive-housing.pmi.step"), "informed.step", cache: TranslationCache.OfUser())
        .GetAwaiter().GetResult());

    private static readonly Lazy<JsonElement> Listed = new(() => JsonDocument.Parse(File.ReadAllText(Path.Combine(
        DemoParts.Root, "tests", "Bostel.Core.Tests", "Data", "cad", "VH-310-vent-drive-housing.pmi.json"))).RootElement);

    /// <summary>
    /// All that the list has stands in the plan, with its limits, material and datums, on faces of the geometry it names.
    /// </summary>
    [Fact]
    public void NothingThatTheFileSaysIsLeftOut()
    {
        var empty = new InspectionPlan();
        var proposal = PlanProposal.Of(Informed.Value, empty, [ProposalSource.Pmi]);
        var plan = proposal.AddedTo(empty);
        plan.Check();
        plan.CheckFaces(Informed.Value);
        Assert.DoesNotContain(proposal.Doubts, d => d.Contains("left out", StringComparison.Ordinal));

        foreach (var datum in Listed.Value.GetProperty("datums").EnumerateObject())
        {
            Assert.True(AreOn(plan.Datums.Single(d => d.Label == datum.Name).Features, datum.Value, plan));
        }

        var dimensions = Listed.Value.GetProperty("dimensions").EnumerateArray().ToList();
        Assert.Equal(dimensions.Count, plan.Characteristics.OfType<FeatureDimensionPlan>().Count());
        foreach (var said in dimensions)
        {
            var row = Assert.Single(plan.Characteristics.OfType<FeatureDimensionPlan>(), c =>
                c.Kind == said.GetProperty("kind").GetString() && AreOn(c.Features, said.GetProperty("features"), plan));
            Assert.Equal(said.GetProperty("nominal").GetDouble(), row.Nominal!.Value, 1e-9);
            Assert.Equal(said.GetProperty("upper").GetDouble(), row.Upper!.Value, 1e-9);
            Assert.Equal(said.GetProperty("lower").GetDouble(), row.Lower!.Value, 1e-9);
        }

        var tolerances = Listed.Value.GetProperty("tolerances").EnumerateArray().ToList();
        Assert.Equal(tolerances.Count, plan.Characteristics.OfType<GeometricalPlan>().Count());
        foreach (var said in tolerances)
        {
            var row = Assert.Single(plan.Characteristics.OfType<GeometricalPlan>(), c =>
                c.Kind.Replace("-", "", StringComparison.Ordinal).StartsWith(
                    said.GetProperty("kind").GetString()!.Replace("runout", "circularrunout", StringComparison.Ordinal)
                        .Replace("totalcircular", "total", StringComparison.Ordinal), StringComparison.Ordinal)
                && (c is SurfaceProfilePlan p ? AreFaces(p.Faces, said) : AreOn(c.Refers.Features, said.GetProperty("features"), plan)));
            Assert.Equal(said.GetProperty("value").GetDouble(), row.Tolerance!.Value, 1e-9);
            Assert.Equal(
                said.GetProperty("datums").EnumerateArray().Select(d => d.GetProperty("label").GetString()), row.Refers.Datums);
            Assert.Equal(said.GetProperty("material").GetString() == "M", (row as AxisPlan)?.Material?.Limit == MaterialLimit.Maximum);
            Assert.Equal(
                said.GetProperty("datums").EnumerateArray().Any(d => d.GetProperty("material").GetString() == "M"),
                (row as PositionPlan)?.Boundary is not null);
        }

        // Of most material: the smallest mounting hole, and the smallest bore that is datum B.
        var mounting = plan.Characteristics.OfType<PositionPlan>().Single(p => p.Boundary is not null);
        Assert.Equal((8.9, 52.0), (mounting.Material!.Size, mounting.Boundary!.Size));
    }

    [Fact]
    public void InformationIsKeptWithAStoredNominal()
    {
        var again = NominalModelStore.Load(NominalModelStore.Save(Informed.Value));
        Assert.Equal(JsonSerializer.Serialize(Informed.Value.Information), JsonSerializer.Serialize(again.Information));
        Assert.False(again.Information.IsEmpty);
        Assert.True(DemoParts.Model("HW-118").Information.IsEmpty);
    }

    /// <summary>What points to faces that are gone, or is of no kind that is known, is said; the rest lives.</summary>
    [Fact]
    public void WhatCannotBeTakenIsSaid()
    {
        var housing = Informed.Value;
        var broken = new NominalModel(housing.Mesh, housing.FaceOfTriangle, housing.Faces, housing.Edges, housing.ChordError, [])
        {
            Information = new(
                [new("A", [99_999], false), new("B", [Face(Listed.Value.GetProperty("faces").GetProperty("main-bore"))], false)],
                [new(DrawingKind.Diameter, 52, null, null, "Q7", housing.Information.Datums.First(d => d.Label == "B").Faces, [])],
                [
                    new(DrawingKind.Flatness, 0.1, false, null, [], [], [99_999]),
                    new(DrawingKind.Flatness, 0.1, false, MaterialLimit.Maximum, [], [],
                        housing.Information.Datums.First(d => d.Label == "A").Faces),
                    new(DrawingKind.Cylindricity, 0.1, false, null, ["tangent plane"], [],
                        housing.Information.Datums.First(d => d.Label == "A").Faces),
                    new(DrawingKind.Perpendicularity, 0.1, false, null, [], [new("A", null, 1)],
                        housing.Information.Datums.First(d => d.Label == "B").Faces),
                ]),
        };
        var proposal = PlanProposal.Of(broken, new(), [ProposalSource.Pmi]);
        Assert.Equal(["B"], proposal.Datums.Select(d => d.Label));
        Assert.IsType<DiameterPlan>(Assert.Single(proposal.Characteristics));
        Assert.Collection(proposal.Doubts,
            d => Assert.Contains("Datum A is left out", d, StringComparison.Ordinal),
            d => Assert.Contains("class Q7", d, StringComparison.Ordinal),
            d => Assert.Contains("refers to no face", d, StringComparison.Ordinal),
            d => Assert.Contains("M needs a feature of size", d, StringComparison.Ordinal),
            d => Assert.Contains("cylindricity does not suit", d, StringComparison.Ordinal),
            d => Assert.Contains("has no ⌀", d, StringComparison.Ordinal),
            d => Assert.Contains("datum A is not defined", d, StringComparison.Ordinal));
    }

    /// <summary>The table of the housing's drawing says what the file says: features, limits, materials, datums.</summary>
    [Fact]
    public void ATableOfTheDrawingFindsItsFeatures()
    {
        var table = Table(File.ReadAllLines(Path.Combine(Drawings, "VH-310-characteristics.csv")));
        var empty = new InspectionPlan();
        var nominal = DemoParts.Model("VH-310");
        var proposal = PlanProposal.Of(nominal, empty, [ProposalSource.Table], table);
        var plan = proposal.AddedTo(empty);
        plan.Check();
        plan.CheckFaces(nominal);
        Assert.DoesNotContain(proposal.Doubts, d => d.Contains("left out", StringComparison.Ordinal));
        Assert.Equal(Enumerable.Range(1, 26), plan.Characteristics.Select(c => c.No).Where(n => n <= 26));
        Assert.Equal(["A", "B", "C"], plan.Datums.Select(d => d.Label));

        var faces = Listed.Value.GetProperty("faces");
        foreach (var (feature, listed) in ((string, string)[])[
            ("Base face", "base-face"), ("Main bore", "main-bore"), ("Counterbore", "counterbore"), ("Flange rim", "flange-rim"),
            ("Dowel hole 1", "dowel-1"), ("Dowel hole 2", "dowel-2"), ("Boss bore", "boss-bore"), ("Pad face", "pad-face")])
        {
            Assert.True(IsOn(plan.Features.Single(f => f.Name == feature).Faces[0], faces.GetProperty(listed), nominal), feature);
        }

        Assert.Equal(6, plan.Characteristics.OfType<PositionPlan>().Single(p => p.No == 22).Features.Length);
        var mounting = plan.Characteristics.OfType<PositionPlan>().Single(p => p.No == 25);
        Assert.Equal((8.9, 52.0, 4), (mounting.Material!.Size, mounting.Boundary!.Size, mounting.Features.Length));
        Assert.Empty(proposal.Doubtful);
    }

    /// <summary>The same again is no news; the same with other limits is said, and the first stays.</summary>
    [Fact]
    public void WhatIsAskedTwiceIsSaidWhereItDiffers()
    {
        var table = Table("number,kind,nominal,upper,lower", "1,diameter,52,0.03,0", "2,diameter,52,0.03,0", "3,diameter,52,0.05,0");
        var proposal = PlanProposal.Of(DemoParts.Model("VH-310"), new(), [ProposalSource.Table], table);
        Assert.Equal(0.03, Assert.IsType<DiameterPlan>(Assert.Single(proposal.Characteristics)).Upper);
        Assert.Contains("characteristic 1 asks the same with other limits", Assert.Single(proposal.Doubts), StringComparison.Ordinal);
    }

    [Fact]
    public void WhatIsDoubtfulIsMarked()
    {
        var table = Table("number,kind,nominal,upper,lower", "7,diameter,8,0.015,0", "8,diameter,77,0.1,-0.1");
        var proposal = PlanProposal.Of(DemoParts.Model("VH-310"), new(), [ProposalSource.Table], table);
        Assert.Equal([7], proposal.Doubtful);
        Assert.Single(proposal.Features);
        Assert.Equal(7, Assert.Single(proposal.Characteristics).No);
        Assert.Collection(proposal.Doubts,
            d => Assert.Contains("2 would suit", d, StringComparison.Ordinal),
            d => Assert.Contains("the nominal has 0 of diameter 77", d, StringComparison.Ordinal));
    }

    [Theory]
    [InlineData("no column 'kind'", "name,nominal", "a,1")]
    [InlineData("line 3: 'wobble' is no kind", "kind,nominal", "diameter,8", "wobble,1")]
    [InlineData("line 2: 'eight' under nominal is no number", "kind,nominal", "diameter,eight")]
    [InlineData("line 2: x, y and z", "kind,x,y", "flatness,1,2")]
    [InlineData("line 2: the lower deviation", "kind,nominal,upper,lower", "diameter,8,0,0.1")]
    [InlineData("line 2: a tolerance above 0", "kind,tolerance", "flatness,0")]
    [InlineData("line 2: '8 Q7'", "kind,requirement", "diameter,8 Q7")]
    [InlineData("is empty")]
    public void ATableWithAnErrorInItNamesTheLine(string message, params string[] lines)
    {
        var error = Assert.Throws<BadInputException>(() => Table(lines));
        Assert.StartsWith("t.csv", error.Message, StringComparison.Ordinal);
        Assert.Contains(message, error.Message, StringComparison.Ordinal);
    }

    private static DrawingTable Table(params string[] lines) =>
        DrawingTable.Of([.. lines.Select(l => (IReadOnlyList<string>)l.Split(','))], "t.csv");

    private static bool AreFaces(int[] faces, JsonElement said) =>
        faces.All(f => said.GetProperty("features").EnumerateArray().Any(n =>
            IsOn(f, Listed.Value.GetProperty("faces").GetProperty(n.GetString()!), Informed.Value)));

    /// <summary>Whether features lie on the faces of the list, each on one, in any order.</summary>
    private static bool AreOn(IReadOnlyList<string> features, JsonElement listed, InspectionPlan plan)
    {
        var names = listed.EnumerateArray().Select(n => Listed.Value.GetProperty("faces").GetProperty(n.GetString()!)).ToList();
        return features.Count == names.Count && features.All(id =>
            names.Any(n => IsOn(plan.Features.Single(f => f.Id == id).Faces[0], n, Informed.Value)));
    }

    private static int Face(JsonElement geometry) => Informed.Value.Faces.First(f => IsOn(f.Id, geometry, Informed.Value)).Id;

    private static bool IsOn(int face, JsonElement geometry, NominalModel nominal)
    {
        var shape = nominal.Face(face).Shape;
        return geometry.GetProperty("kind").GetString() == "plane"
            ? shape is Plane3D plane && Math.Abs(plane.Distance(At("point"))) < 1e-4 && plane.Normal.AngleTo(At("normal")) < 1e-6
            : shape is Cylinder3D cylinder && Math.Abs(cylinder.Radius - geometry.GetProperty("radius").GetDouble()) < 1e-6
                && cylinder.AxisLine.Distance(At("axis_through")) < 1e-4;
        Vector3D At(string field) => Vector3D.FromArray([.. geometry.GetProperty(field).EnumerateArray().Select(v => v.GetDouble())]);
    }
}

using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Plans;

/// <summary>What picked faces offer, against the housing's drawing: the same values stand in its demo plan, written by hand.</summary>
public class ProposalTests
{
    private const int BaseFace = 119, MainBore = 128, FlangeFace = 46, BossBore = 124, FlangeHole = 16;

    private static NominalModel Housing => DemoParts.Model("VH-310");

    private static InspectionPlan Demo => InspectionPlan.Parse(
        File.ReadAllText(Path.Combine(DemoParts.Root, "demo", "plans", "VH-310.json")));

    private static IEnumerable<CharacteristicPlan> Offered(params int[] faces) =>
        Proposals.For(Housing, Demo, faces).Select(p => p.Characteristic);

    [Fact]
    public void ABoreHasItsNominalDiameterAndTheToleranceOfItsSize()
    {
        var bore = Proposals.For(Housing, new(), [MainBore]);
        var diameter = Assert.IsType<DiameterPlan>(bore[0].Characteristic);

        // ISO 2768-1, class m: above 30 up to 120 mm ± 0.3.
        Assert.Equal((52.0, -0.3, 0.3), (diameter.Nominal, diameter.Lower, diameter.Upper));
        Assert.Contains(MainBore, Assert.Single(bore[0].NewFeatures).Faces);
        Assert.DoesNotContain(bore, p => p.Characteristic is PositionPlan);
    }

    [Fact]
    public void FeaturesOfThePlanAreUsedAndNumbersGoOn()
    {
        var proposals = Proposals.For(Housing, Demo, [MainBore]);
        Assert.All(proposals, p => Assert.Empty(p.NewFeatures));
        Assert.All(proposals, p => Assert.Equal(1 + Demo.Characteristics.Max(c => c.No), p.Characteristic.No));
        Assert.Equal(["main-bore"], proposals[0].Characteristic.Refers.Features);
    }

    /// <summary>A datum of the feature itself would make its own position 0.</summary>
    [Fact]
    public void PlaceAndOrientationReferToTheOtherDatums()
    {
        var proposals = Offered(MainBore).ToList();
        Assert.Equal(["A", "C"], proposals.OfType<PositionPlan>().Single().Datums);
        Assert.Equal(["A"], proposals.OfType<PerpendicularityPlan>().Single().Datums);
        Assert.Equal(["B"], Offered(FlangeHole).OfType<ParallelismPlan>().Single().Datums);
    }

    [Fact]
    public void TwoSurfacesHaveTheDistanceOrTheAngleOfTheDrawing()
    {
        var height = Offered(BaseFace, FlangeFace).ToList();
        Assert.Equal(85, height.OfType<WidthPlan>().Single().Nominal);
        Assert.Equal(85, height.OfType<DistancePlan>().Single().Nominal);
        Assert.Empty(height.OfType<AnglePlan>());
        var angle = Assert.Single(Offered(BaseFace, BossBore).OfType<AnglePlan>());
        Assert.Equal(30, angle.Nominal!.Value, 1e-4);
    }

    [Fact]
    public void ManyFacesHaveAProfileOverAllOfThem()
    {
        var profile = Assert.IsType<SurfaceProfilePlan>(Assert.Single(Offered(BaseFace, FlangeFace, MainBore)));
        Assert.Equal([BaseFace, FlangeFace, MainBore], profile.Faces);
        Assert.Equal(0.2, profile.Tolerance);
    }

    /// <summary>A surface that makes a datum itself is not toleranced to it.</summary>
    [Fact]
    public void AProfileDoesNotReferToItsOwnDatum() =>
        Assert.Equal(["A", "C"], Offered(MainBore).OfType<SurfaceProfilePlan>().Single().Datums);

    [Fact]
    public void AFeatureOfPickedFacesIsNamedByItsSurfaceAndIsItsOwn()
    {
        var first = Proposals.FeatureOf(Housing, new(), [MainBore]);
        Assert.Equal(("Bore ø52", 1), (first.Name, first.Faces.Length));
        var second = Proposals.FeatureOf(Housing, new() { Features = [first] }, [MainBore, BaseFace]);
        Assert.Equal("Bore ø52 (2)", second.Name);
        Assert.NotEqual(first.Id, second.Id);
        Assert.Equal([MainBore, BaseFace], second.Faces);
        Assert.Throws<BadInputException>(() => Proposals.FeatureOf(Housing, new(), []));
    }

    [Fact]
    public void NothingPickedOffersNothing() => Assert.Empty(Proposals.For(Housing, Demo, []));

    [Fact]
    public void AFaceThatIsNotThereIsNamed() =>
        Assert.Contains("face 9999", Assert.Throws<BadInputException>(() => Proposals.For(Housing, Demo, [9999])).Message,
            StringComparison.Ordinal);

    /// <summary>Whatever is offered can be kept in the plan as it is.</summary>
    [Fact]
    public void EveryProposalMakesASoundPlan()
    {
        int[][] picks = [[BaseFace], [MainBore], [BaseFace, BossBore], [MainBore, FlangeHole], [FlangeFace, MainBore]];
        Assert.All(picks.SelectMany(f => Proposals.For(Housing, Demo, f)), p => (Demo with
        {
            Features = [.. Demo.Features, .. p.NewFeatures],
            Characteristics = [.. Demo.Characteristics, p.Characteristic],
        }).Check());
    }
}

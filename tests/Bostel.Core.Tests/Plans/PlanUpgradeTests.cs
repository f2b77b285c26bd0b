using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Core.Selecting;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Plans;

/// <summary>What was stored by earlier versions means the same today, and nothing computed is ever stored as if it were chosen.</summary>
public class PlanUpgradeTests
{
    [Fact]
    public void FieldsOfOtherKindsAreLeftBehind()
    {
        var plan = InspectionPlan.Parse("""
            {
              "schema": "bostel-plan/3", "part": "X",
              "prepare": {"steps": [{"kind": "drop", "share": 0.5, "selection": [
                {"kind": "grow", "point": [1, 2, 3], "angle": 12, "radius": 4, "frame": "nominal"}]}]},
              "align": {"faces": [], "datums": []},
              "compare": {"lower": -0.1, "upper": 0.1, "maxAngle": 45},
              "features": [{"id": "a", "name": "A", "faces": [1]}],
              "characteristics": [{"no": 1, "name": "Flat", "kind": "flatness", "features": ["a"], "tolerance": 0.1,
                "faces": [], "datums": [], "nominal": 3}],
              "decision": {"rule": "simple", "guardFactor": 1}
            }
            """);
        Assert.Equal(45, plan.Compare.MaxAngleDegrees);
        Assert.IsType<AllSurfacesPlan>(plan.Align);
        Assert.IsType<SimpleRule>(plan.Decision);
        Assert.Equal(0.1, Assert.IsType<FlatnessPlan>(plan.Characteristics[0]).Tolerance);
        var grow = Assert.IsType<GrowTerm>(Assert.IsType<DropStep>(plan.Prepare.Steps[0]).Selection![0]);
        Assert.Equal((12, 3), (grow.AngleDegrees!.Value, grow.Point[2]));
    }

    [Fact]
    public void AFieldThatNoKindHasIsStillRefused()
    {
        var error = Assert.Throws<BadInputException>(() => InspectionPlan.Parse("""
            {"schema": "bostel-plan/3", "part": "X", "align": {"method": "all-surfaces", "lucky": true}}
            """));
        Assert.Contains("lucky", error.Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData(typeof(CharacteristicPlan))]
    [InlineData(typeof(PrepareStep))]
    [InlineData(typeof(SelectionTerm))]
    [InlineData(typeof(AlignPlan))]
    [InlineData(typeof(DecisionRule))]
    public void APlanHoldsOnlyWhatCanBeChosen(Type set)
    {
        var kinds = InspectionPlan.Json.GetTypeInfo(set).PolymorphismOptions!.DerivedTypes;
        Assert.NotEmpty(kinds);
        Assert.All(kinds, k => Assert.All(
            InspectionPlan.Json.GetTypeInfo(k.DerivedType).Properties,
            p => Assert.True(p.Get is null || p.Set is not null, $"{k.DerivedType.Name}.{p.Name}")));
    }
}

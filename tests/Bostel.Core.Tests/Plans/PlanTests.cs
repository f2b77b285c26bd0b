using Bostel.Core.Plans;

namespace Bostel.Core.Tests.Plans;

public class PlanTests
{
    private static string Demo => File.ReadAllText(Path.Combine(DemoParts.Root, "demo", "plans", "VH-310.json"));

    [Fact]
    public void APlanComesBackAsItWas()
    {
        var plan = InspectionPlan.Parse(Demo);
        Assert.Equal(26, plan.Characteristics.Count);
        Assert.Equal(plan.ToJson(), InspectionPlan.Parse(plan.ToJson()).ToJson());
    }

    [Theory]
    [InlineData("true", "keep-part")]
    [InlineData("false", "")]
    public void APlanOfTheFirstVersionIsUnderstood(string drop, string steps)
    {
        var plan = InspectionPlan.Parse($$"""{ "schema": "bostel-plan/1", "part": "X", "prepare": {"dropLoosePieces": {{drop}} } }""");
        Assert.Equal(InspectionPlan.Version, plan.Schema);
        Assert.Equal(steps, string.Join(' ', plan.Prepare.Steps.Select(s => s.Kind)));
    }

    [Theory]
    [InlineData("{ \"kind\": \"polish\" }", "prepare step 1: the kind 'polish' is not one of")]
    [InlineData("{ \"kind\": \"smooth\", \"passes\": 5 }", "prepare step 1: 'smooth' needs maxDisplacement")]
    [InlineData("{ \"kind\": \"drop\", \"selection\": [{ \"kind\": \"brush\", \"path\": [0, 0, 0] }] }",
        "prepare step 1, selection 1: 'brush' needs a radius")]
    [InlineData("{ \"kind\": \"keep-part\" }, { \"kind\": \"reduce\", \"share\": 1.5 }", "prepare step 2: 'reduce' needs")]
    public void AFaultyStepIsRefusedWithItsNumber(string steps, string message)
    {
        var error = Assert.Throws<BadInputException>(
            () => InspectionPlan.Parse($$"""{"schema": "bostel-plan/8", "part": "X", "prepare": {"steps": [{{steps}}] } }"""));
        Assert.Contains(message, error.Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("\"bostel-plan/9\"", "\"bostel-plan/10\"", "schema is 'bostel-plan/10'")]
    [InlineData("\"flatness\"", "\"prettiness\"", "characteristic 1: the kind 'prettiness'")]
    [InlineData("\"tolerance\": 0.05", "\"tolerance\": -1", "needs a tolerance above 0")]
    [InlineData("\"no\": 2", "\"no\": 1", "'1' appears twice")]
    [InlineData("\"guardFactor\"", "\"guardfaktor\"", "is not an inspection plan")]
    [InlineData("\"datums\": [\n        \"A\"\n      ]", "\"datums\": [\"Q\"]", "names datum Q")]
    public void AFaultyPlanIsRefusedWithItsField(string from, string to, string message)
    {
        var at = Demo.IndexOf(from, StringComparison.Ordinal);
        Assert.True(at >= 0, "the demo plan no longer holds the text to spoil");
        var bad = string.Concat(Demo.AsSpan(0, at), to, Demo.AsSpan(at + from.Length));
        var error = Assert.Throws<BadInputException>(() => InspectionPlan.Parse(bad, "p.json"));
        Assert.StartsWith("p.json", error.Message, StringComparison.Ordinal);
        Assert.Contains(message, error.Message, StringComparison.Ordinal);
    }
}

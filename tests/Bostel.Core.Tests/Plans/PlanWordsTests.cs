using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Plans;

public class PlanWordsTests
{
    private static InspectionPlan Demo => InspectionPlan.Parse(
        File.ReadAllText(Path.Combine(DemoParts.Root, "demo", "plans", "VH-310.json")));

    [Fact]
    public void EveryThingIsSaidOnceUnderItsOwnKey()
    {
        var plan = Demo;
        var lines = PlanWords.Of(plan);
        Assert.Equal(lines.Count, lines.Select(l => (l.Section, l.Key)).Distinct().Count());
        Assert.All(plan.Characteristics, c => Assert.Contains(lines, l => l.Key == $"characteristic {c.No}"));
        Assert.All(plan.Features, f => Assert.Contains(lines, l => l.Key == $"feature {f.Id}"));
    }

    [Fact]
    public void APlanDoesNotDifferFromItself() => Assert.Empty(PlanChange.Between(Demo, Demo));

    [Fact]
    public void WhatWasAddedChangedAndRemovedIsSaid()
    {
        var before = Demo;
        var after = before with
        {
            Characteristics =
            [
                .. before.Characteristics.Skip(1).Select(c => c is DiameterPlan { No: 2 } d ? d with { Upper = 0.05 } : c),
                new WidthPlan(40, "Slot") { Features = ["base-face", "flange-face"], Nominal = 85, Lower = -1, Upper = 1 },
            ],
            Decision = new SimpleRule(),
        };
        var changes = PlanChange.Between(before, after).Select(c => c.Words).ToList();
        Assert.Equal(4, changes.Count);
        Assert.StartsWith("characteristic 1 removed: Base face flatness", changes[0], StringComparison.Ordinal);
        Assert.Contains("52 0 +0.03 mm → ", changes[1], StringComparison.Ordinal);
        Assert.EndsWith("52 0 +0.05 mm", changes[1], StringComparison.Ordinal);
        Assert.Equal("characteristic 40 added: Slot: width of Base face and Flange face, 85 −1 +1 mm", changes[2]);
        Assert.Contains("decision: guard bands of 1 U → simple acceptance", changes[3], StringComparison.Ordinal);
    }

    [Fact]
    public void EveryFaceThatAPlanNamesMustBeThere()
    {
        var nominal = DemoParts.Model("VH-310");
        Demo.CheckFaces(nominal);
        InspectionPlan[] wrong =
        [
            Demo with { Align = new AllSurfacesPlan { Weights = [new(5000, 2)] } },
            Demo with { Align = new ChosenFacesPlan { Faces = [-1] } },
            Demo with { Features = [new("x", "X", [nominal.Faces.Count])] },
        ];
        Assert.All(wrong, p => Assert.Contains(
            "names face", Assert.Throws<BadInputException>(() => p.CheckFaces(nominal)).Message, StringComparison.Ordinal));
    }

    /// <summary>A field that is not said in words would be a change that nobody sees.</summary>
    [Theory]
    [InlineData("\"asAligned\": false", "\"asAligned\": true")]
    [InlineData("\"filter\": 8", "\"filter\": 2.5")]
    [InlineData("\"balance\": false", "\"balance\": true")]
    [InlineData("\"searchDistance\": 1", "\"searchDistance\": 2")]
    [InlineData("\"maxAngleDegrees\": 60", "\"maxAngleDegrees\": 50")]
    [InlineData("\"off\": false", "\"off\": true")]
    [InlineData("\"criterion\": \"least-squares\"", "\"criterion\": \"minimum-zone\"")]
    public void EveryFieldTellsItsChange(string from, string to)
    {
        var json = Demo.ToJson();
        var at = json.IndexOf(from, StringComparison.Ordinal);
        Assert.True(at >= 0, from);
        var changed = InspectionPlan.Parse(string.Concat(json.AsSpan(0, at), to, json.AsSpan(at + from.Length)));
        Assert.Single(PlanChange.Between(Demo, changed));
    }
}

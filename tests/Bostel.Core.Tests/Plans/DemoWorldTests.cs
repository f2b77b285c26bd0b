using System.Text.Json;
using Bostel.Core.Plans;
using Bostel.Scanner;

namespace Bostel.Core.Tests.Plans;

/// <summary>
/// The demo world that ships: every part has its nominal, a plan that fits it, and pieces with a recipe, one of them judged.
/// </summary>
public class DemoWorldTests
{
    private static readonly string _folder = Path.Combine(DemoParts.Root, "demo");

    public static TheoryData<string> Parts => [.. Read().Select(p => p.GetProperty("number").GetString()!)];

    [Theory]
    [MemberData(nameof(Parts))]
    public void APartIsWhole(string number)
    {
        var part = Read().Single(p => p.GetProperty("number").GetString() == number);
        Assert.True(File.Exists(Path.Combine(_folder, "nominal", part.GetProperty("nominal").GetString()!)));
        var file = part.GetProperty("plan").GetString()!;
        var plan = InspectionPlan.Parse(File.ReadAllText(Path.Combine(_folder, "plans", file)), file);
        plan.CheckFaces(DemoParts.Model(number));
        Assert.Equal(number, plan.Part);
        Assert.NotEmpty(plan.Characteristics);
        var pieces = part.GetProperty("pieces").EnumerateArray().ToList();
        Assert.Contains(pieces, p => p.TryGetProperty("run", out var run) && run.GetBoolean());
        Assert.All(pieces.Select(p => $"{number}-{p.GetProperty("serial").GetString()}.json"),
            recipe => ScanRecipe.Parse(File.ReadAllText(Path.Combine(_folder, "recipes", recipe)), recipe));
    }

    [Fact]
    public void AllFivePartsAreThere() => Assert.Equal(5, Read().Count);

    private static List<JsonElement> Read() =>
        [.. JsonDocument.Parse(File.ReadAllText(Path.Combine(_folder, "demo.json"))).RootElement.EnumerateArray()];
}

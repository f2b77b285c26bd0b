using System.Text.RegularExpressions;
using NetArchTest.Rules;

namespace Bostel.Core.Tests.Structure;

/// <summary>The rules of the house that can be checked.</summary>
public partial class DependencyTests
{
    private static readonly string[] Rooms =
        ["Geometry", "Meshes", "Formats", "Spatial", "Fitting", "Nominals", "Segmentation", "Selecting", "Preparation", "Alignment",
            "Comparison", "Features", "Tolerancing", "Statistics", "ReferenceCases", "Plans", "Figures"];

    [Fact]
    public void TheCoreKnowsNoOtherProjectAndNoOutsideWorld()
    {
        var result = Types.InAssembly(typeof(BadInputException).Assembly).ShouldNot().HaveDependencyOnAny(
            "Bostel.Cad", "Bostel.Reports", "Bostel.Scanner", "Bostel.Data", "Bostel.Server", "Microsoft.EntityFrameworkCore",
            "Microsoft.AspNetCore", "System.Net", "System.Data").GetResult();
        Assert.True(result.IsSuccessful, string.Join(", ", result.FailingTypeNames ?? []));
    }

    [Fact]
    public void TheCoreUsesNoClockAndNoUnseededRandomness()
    {
        var found = Sources().Where(f => Clock().IsMatch(File.ReadAllText(f))).Select(Path.GetFileName);
        Assert.Empty(found);
    }

    /// <summary>
    /// The order of the rooms is that of docs/architecture.md. Looked at are the compiled types, so that a qualified name or
    /// a type that is only inferred counts as well.
    /// </summary>
    [Theory]
    [MemberData(nameof(RoomsAndLaterOnes))]
    public void ARoomUsesOnlyRoomsBeforeIt(string room, string[] later)
    {
        var result = Types.InAssembly(typeof(BadInputException).Assembly).That().ResideInNamespaceStartingWith(Namespace(room))
            .ShouldNot().HaveDependencyOnAny([.. later.Select(Namespace)]).GetResult();
        Assert.True(result.IsSuccessful, $"{room} uses a later room: {string.Join(", ", result.FailingTypeNames ?? [])}");
    }

    [Fact]
    public void EveryRoomIsInTheOrder() =>
        Assert.Equal(
            Rooms.Order(),
            Types.InAssembly(typeof(BadInputException).Assembly).GetTypes()
                .Select(t => t.Namespace?.Split('.')).Where(n => n is ["Bostel", "Core", _, ..]).Select(n => n![2]).Distinct().Order());

    public static TheoryData<string, string[]> RoomsAndLaterOnes()
    {
        var data = new TheoryData<string, string[]>();
        for (var i = 0; i + 1 < Rooms.Length; i++)
        {
            data.Add(Rooms[i], Rooms[(i + 1)..]);
        }

        return data;
    }

    [Fact]
    public void ThePublishedPlanSchemaIsCurrent() => Assert.Equal(
        File.ReadAllText(Path.Combine(DemoParts.Root, "docs", "plan.schema.json")).TrimEnd(),
        Core.Plans.InspectionPlan.SchemaJson().TrimEnd());

    private static string Namespace(string room) => $"Bostel.Core.{room}";

    private static IEnumerable<string> Sources() => Rooms.SelectMany(r =>
        Directory.GetFiles(Path.Combine(DemoParts.Root, "src", "Bostel.Core", r), "*.cs", SearchOption.AllDirectories));

    [GeneratedRegex(@"DateTime(Offset)?\.(Utc)?Now|new Random\(\)|Random\.Shared|Guid\.NewGuid|Environment\.TickCount|Stopwatch")]
    private static partial Regex Clock();
}

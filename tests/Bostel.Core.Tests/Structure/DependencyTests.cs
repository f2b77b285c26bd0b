using System.Text.RegularExpressions;
using NetArchTest.Rules;

namespace Bostel.Core.Tests.Structure;

/// <summary>The rules of the house that can be checked.</summary>
public partial class DependencyTests
{
    private static readonly string[] Folders =
        ["Geometry", "Meshes", "Formats", "Spatial", "Fitting", "Preparation", "Segmentation", "Alignment", "Comparison", "Features",
            "Tolerancing", "Plans", "Figures"];

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

    /// <summary>The order of the folders is that of docs/architecture.md.</summary>
    [Fact]
    public void AFolderUsesOnlyFoldersBeforeIt()
    {
        var wrong = new List<string>();
        foreach (var file in Sources())
        {
            var own = Path.GetFileName(Path.GetDirectoryName(file))!;
            foreach (Match use in Using().Matches(File.ReadAllText(file)))
            {
                var other = use.Groups[1].Value;
                if (Array.IndexOf(Folders, other) > Array.IndexOf(Folders, own))
                {
                    wrong.Add($"{own}/{Path.GetFileName(file)} uses {other}");
                }
            }
        }

        Assert.Empty(wrong);
    }

    [Fact]
    public void ThePublishedPlanSchemaIsCurrent() => Assert.Equal(
        File.ReadAllText(Path.Combine(DemoParts.Root, "docs", "plan.schema.json")).TrimEnd(),
        Core.Plans.InspectionPlan.SchemaJson().TrimEnd());

    private static IEnumerable<string> Sources() =>
        Folders.SelectMany(f => Directory.GetFiles(Path.Combine(DemoParts.Root, "src", "Bostel.Core", f), "*.cs"));

    [GeneratedRegex(@"DateTime(Offset)?\.(Utc)?Now|new Random\(\)|Random\.Shared|Guid\.NewGuid|Environment\.TickCount|Stopwatch")]
    private static partial Regex Clock();

    [GeneratedRegex(@"^using Bostel\.Core\.(\w+);", RegexOptions.Multiline)]
    private static partial Regex Using();
}

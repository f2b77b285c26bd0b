using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Plans;

/// <summary>What a nominal proposes, against what the drawings of the demo parts say of their faces.</summary>
public class PlanProposalTests
{
    private static readonly ProposalSource[] Faces = [ProposalSource.Faces];

    [Theory]
    [InlineData("VH-310")]
    [InlineData("RC-077")]
    [InlineData("HW-118")]
    [InlineData("LB-045")]
    [InlineData("FB-620")]
    public void AProposedPlanIsSoundAndHoldsThePart(string part)
    {
        var nominal = DemoParts.Model(part);
        var empty = new InspectionPlan { Part = part };
        var plan = PlanProposal.Of(nominal, empty, Faces).AddedTo(empty);
        plan.Check();
        plan.CheckFaces(nominal);
        Assert.InRange(plan.Datums.Count, 1, 3);
        Assert.Contains(plan.Characteristics, c => c is SurfaceProfilePlan p && p.Faces.Length == nominal.Faces.Count);

        // Each is asked of what it fits.
        Assert.All(plan.Characteristics.OfType<FlatnessPlan>(), c => Assert.IsType<Core.Geometry.Plane3D>(ShapeOf(c, plan, nominal)));
        Assert.All(plan.Characteristics.OfType<DiameterPlan>(), c => Assert.Equal(
            2 * ((Core.Geometry.Cylinder3D)ShapeOf(c, plan, nominal)).Radius, c.Nominal!.Value, 1e-4));
    }

    /// <summary>The housing has six flange holes of 6.6, four mounting holes of 9 with counterbores of 20, two dowel holes of 8.</summary>
    [Fact]
    public void PatternsOfTheHousingAreFound()
    {
        var plan = new InspectionPlan();
        var rows = PlanProposal.Of(DemoParts.Model("VH-310"), plan, Faces).AddedTo(plan).Characteristics;
        int[] patterns = [.. rows.OfType<PositionPlan>().Select(c => c.Features.Length).Where(n => n > 1).Order()];

        // One mounting hole is datum C: three are left.
        Assert.Equal([2, 3, 4, 6], patterns);
        Assert.Contains(rows, c => c.Name.StartsWith("Bore ø6.6 no. 1", StringComparison.Ordinal));
    }

    /// <summary>What a plan has is used and not made anew: its features, its datums, its numbers.</summary>
    [Fact]
    public void APlanKeepsItsOwn()
    {
        var demo = InspectionPlan.Parse(File.ReadAllText(Path.Combine(DemoParts.Root, "demo", "plans", "VH-310.json")));
        var proposal = PlanProposal.Of(DemoParts.Model("VH-310"), demo, Faces);
        Assert.Empty(proposal.Datums);
        Assert.DoesNotContain(proposal.Features, f => demo.Features.Any(d => d.Faces.ToHashSet().SetEquals(f.Faces)));
        var first = 1 + demo.Characteristics.Max(c => c.No);
        Assert.Equal(Enumerable.Range(first, proposal.Characteristics.Count), proposal.Characteristics.Select(c => c.No));

        // The bore's diameter is asked already; its neighbours' are not.
        Assert.DoesNotContain(proposal.Characteristics, c => c is DiameterPlan d && d.Features[0] == "main-bore");
        Assert.Contains(proposal.Characteristics, c => c is DiameterPlan d && d.Features[0] == "flange-hole-2");
        proposal.AddedTo(demo).Check();
    }

    private static Core.Geometry.Shape ShapeOf(CharacteristicPlan row, InspectionPlan plan, NominalModel nominal) =>
        nominal.Face(plan.Features.Single(f => f.Id == row.Refers.Features[0]).Faces[0]).Shape!;
}

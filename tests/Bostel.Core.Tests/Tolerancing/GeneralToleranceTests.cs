using Bostel.Core.Nominals;
using Bostel.Core.Plans;
using Bostel.Core.Segmentation;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>General tolerances against the tables of ISO 2768-1:1989 and ISO 2768-2:1989, and as a rule of a plan.</summary>
public class GeneralToleranceTests
{
    private const double Side = 40;
    private static readonly Iso2768Tolerances Usual = new(LinearClass.Medium, GeometricalClass.K);
    private readonly NominalModel _block = CadMeshSegmentation.Recognise(Shapes.Cube(Side, 1));

    /// <summary>Values at both ends of ranges: a size belongs to the range that it does not exceed.</summary>
    [Theory]
    [InlineData(LinearClass.Fine, 3.0, 0.05)]
    [InlineData(LinearClass.Fine, 30.0, 0.1)]
    [InlineData(LinearClass.Medium, 6.0, 0.1)]
    [InlineData(LinearClass.Medium, 6.01, 0.2)]
    [InlineData(LinearClass.Medium, 400.0, 0.5)]
    [InlineData(LinearClass.Coarse, 120.0, 0.8)]
    [InlineData(LinearClass.Coarse, 121.0, 1.2)]
    [InlineData(LinearClass.VeryCoarse, 5.0, 0.5)]
    [InlineData(LinearClass.VeryCoarse, 2000.0, 6.0)]
    public void LengthsAreThoseOfTheTable(LinearClass sizes, double nominal, double deviation) =>
        Assert.Equal(deviation, new Iso2768Tolerances(sizes).OfLength(nominal));

    [Fact]
    public void WhatTheTablesLeaveOutHasNone()
    {
        Assert.Null(new Iso2768Tolerances(LinearClass.VeryCoarse).OfLength(2));
        Assert.Null(new Iso2768Tolerances(LinearClass.Fine).OfLength(3000));
        Assert.Null(Usual.OfLength(5000));
        Assert.Null(new Iso2768Tolerances().OfForm(10));
        Assert.Null(new Iso2768Tolerances().OfRunOut);
        Assert.Null(Usual.OfAngle(null));
        Assert.Null(new Iso22081Tolerances(Profile: 0.5).OfLength(10));
    }

    [Fact]
    public void TheOtherTablesAreThoseOfTheStandard()
    {
        var (fine, coarse) = (new Iso2768Tolerances(LinearClass.Fine, GeometricalClass.H),
            new Iso2768Tolerances(LinearClass.VeryCoarse, GeometricalClass.L));
        Assert.Equal((0.2, 0.5, 1.0), (fine.OfExternalRadius(3), fine.OfExternalRadius(6), fine.OfExternalRadius(7)));
        Assert.Equal((0.4, 1.0, 2.0), (coarse.OfExternalRadius(3), coarse.OfExternalRadius(6), coarse.OfExternalRadius(7)));

        // 1°, 0°30', 0°20' and 3°, 2°, 1°.
        Assert.Equal((1.0, 0.5, 0.3333), (fine.OfAngle(10), fine.OfAngle(50), fine.OfAngle(120)));
        Assert.Equal((3.0, 2.0, 1.0), (coarse.OfAngle(10), coarse.OfAngle(50), coarse.OfAngle(120)));
        Assert.Equal((0.02, 0.1, 0.4), (fine.OfForm(10), fine.OfForm(100), fine.OfForm(3000)));
        Assert.Equal((0.2, 0.4, 1.2), (coarse.OfForm(11), coarse.OfForm(100), coarse.OfForm(1000)));
        Assert.Equal((0.2, 0.3, 2.0), (fine.OfPerpendicularity(100), fine.OfPerpendicularity(101), coarse.OfPerpendicularity(3000)));
        Assert.Equal((0.5, 0.6, 1.5), (fine.OfSymmetry(2000), coarse.OfSymmetry(100), coarse.OfSymmetry(1000)));
        Assert.Equal((0.1, 0.5), (fine.OfRunOut, coarse.OfRunOut));

        // The tolerance of the diameter, 2 × 0.05, or that of run-out where it is less.
        Assert.Equal((0.1, 0.1), (fine.OfRoundness(5), fine.OfRoundness(50)));
        Assert.Equal("ISO 2768-mK", Usual.Words);
        Assert.Equal("ISO 2768-c", new Iso2768Tolerances(LinearClass.Coarse).Words);
    }

    /// <summary>Sides of the block are 40 mm: m gives ±0.3 and c ±0.8 for its height, K 0.2 and L 0.4 for its flatness.</summary>
    [Fact]
    public void RowsFollowTheRule()
    {
        var plan = Asking(Usual);
        var medium = plan.WithGeneralLimits(_block).Characteristics;
        Assert.Equal(new Limits(Side, Side - 0.3, Side + 0.3), medium[0].Limits);
        Assert.Equal((0.2, 0.4), (medium[1].Limits.Upper, medium[2].Limits.Upper));

        var coarse = (plan with { General = new Iso2768Tolerances(LinearClass.Coarse, GeometricalClass.L) }).WithGeneralLimits(_block);
        Assert.Equal(new Limits(Side, Side - 0.8, Side + 0.8), coarse.Characteristics[0].Limits);
        Assert.Equal((0.4, 0.6), (coarse.Characteristics[1].Limits.Upper, coarse.Characteristics[2].Limits.Upper));

        // What has its own keeps it, and a plan that is read again is the same.
        Assert.Equal(plan.Characteristics[3].Limits, coarse.Characteristics[3].Limits);
        Assert.Equal(coarse.ToJson(), InspectionPlan.Parse(coarse.ToJson()).ToJson());
        Assert.Contains(PlanWords.Of(coarse), l => l is { Key: "general tolerances", Words: "ISO 2768-cL" });
    }

    [Fact]
    public void WhatTheRuleSaysNothingOfNeedsItsOwn()
    {
        var refused = Assert.Throws<BadInputException>(
            () => Asking(new Iso22081Tolerances(Profile: 0.4, Size: 0.1)).WithGeneralLimits(_block));
        Assert.Contains("Characteristic 2", refused.Message, StringComparison.Ordinal);
        Assert.Contains("flatness", refused.Message, StringComparison.Ordinal);

        // Nor of a row that refers to nothing.
        var empty = Asking(Usual) with { Characteristics = [new RadiusPlan(1, "none") { Nominal = 5, General = true }] };
        Assert.Throws<BadInputException>(() => empty.WithGeneralLimits(_block));

        // Without a rule there is nothing to take, and a zone of nothing is none.
        Assert.Contains("characteristic 1", Assert.Throws<BadInputException>(() => Asking(null).Check()).Message, StringComparison.Ordinal);
        Assert.Throws<BadInputException>(() => new InspectionPlan { General = new Iso22081Tolerances() }.Check());
        Assert.Throws<BadInputException>(() => new InspectionPlan { General = new Iso22081Tolerances(Profile: -1) }.Check());
    }

    /// <summary>A rule of sizes alone stays one when its plan is written and read.</summary>
    [Fact]
    public void NoClassOfFormStaysNone()
    {
        var plan = new InspectionPlan { General = new Iso2768Tolerances(LinearClass.Fine) };
        Assert.Equal(plan.General, InspectionPlan.Parse(plan.ToJson()).General);
        Assert.Null(plan.General.OfForm(10));
    }

    /// <summary>A row whose limits nobody looked up is not measured: without limits everything would conform.</summary>
    [Fact]
    public void ARowWithoutLimitsIsNeverProven()
    {
        var row = Asking(Usual).Characteristics[0];
        var judged = Evaluation.Judge(row, new(Side, "a way"), new SimpleRule(), new(), new());
        Assert.Equal(Verdict.NotMeasured, judged.Verdict);
        Assert.Contains("general tolerances", judged.Remark, StringComparison.Ordinal);
    }

    /// <summary>The general profile of ISO 22081 holds for the five faces of the block that have no tolerance of their own.</summary>
    [Fact]
    public void ProposalsTakeThePlansRule()
    {
        var plan = Asking(new Iso22081Tolerances(Profile: 0.4)) with { Characteristics = [Asking(null).Characteristics[3]] };
        var proposed = PlanProposal.Of(_block, plan, [ProposalSource.Faces]).Characteristics;
        var profile = Assert.Single(proposed.OfType<SurfaceProfilePlan>());
        Assert.Equal((true, 0.4), (profile.General, profile.Tolerance));
        Assert.Equal(_block.Faces.Select(f => f.Id).Where(f => f != Top), profile.Faces);
        Assert.All(proposed.OfType<FlatnessPlan>(), f => Assert.False(f.General));

        // Where every face has a tolerance nothing is left to ask.
        var all = new SurfaceProfilePlan(1, "all") { Faces = [.. _block.Faces.Select(f => f.Id)], Tolerance = 1, AsAligned = true };
        Assert.DoesNotContain(
            PlanProposal.Of(_block, plan with { Characteristics = [all] }, [ProposalSource.Faces]).Characteristics,
            c => c is SurfaceProfilePlan);

        var sized = Proposals.For(_block, plan with { General = new Iso2768Tolerances(LinearClass.Fine) }, [Top, Bottom]);
        var width = sized.Select(p => p.Characteristic).OfType<WidthPlan>().Single();
        Assert.Equal((true, 0.15), (width.General, width.Upper));
    }

    /// <summary>A rectangle turned by 30° in its plane, and a triangle whose longest side bears the rectangle.</summary>
    [Fact]
    public void TheLongerSideIsThatOfTheSmallestRectangle()
    {
        var (c, s) = (Math.Cos(Math.PI / 6), Math.Sin(Math.PI / 6));
        (double X, double Y)[] corners = [(0, 0), (30, 0), (30, 12), (0, 12), (15, 6)];
        var around = Bostel.Core.Geometry.SmallestRectangle.Around(corners.Select(p => ((p.X * c) - (p.Y * s), (p.X * s) + (p.Y * c))));
        Assert.Equal(30, around.Long, 1e-12);
        Assert.Equal(12, around.Short, 1e-12);
        Assert.Equal((0, 0), Bostel.Core.Geometry.SmallestRectangle.Around([]));
        Assert.Equal(5, Bostel.Core.Geometry.SmallestRectangle.Around([(0, 0), (3, 4)]).Long, 1e-12);
    }

    private int Top => Face(1);

    private int Bottom => Face(-1);

    private int Face(int up) => _block.Faces.Single(f => f.Shape is Bostel.Core.Geometry.Plane3D p && p.Normal.Z * up > 0.5).Id;

    private int Beside => _block.Faces.First(f => f.Shape is Bostel.Core.Geometry.Plane3D p && Math.Abs(p.Normal.X) > 0.5).Id;

    private InspectionPlan Asking(GeneralTolerances? rule) => new()
    {
        General = rule,
        Features = [new("top", "Top", [Top]), new("bottom", "Bottom", [Bottom]), new("side", "Side", [Beside])],
        Datums = [new("A", ["bottom"])],
        Characteristics =
        [
            new WidthPlan(1, "height") { Features = ["bottom", "top"], Nominal = Side, General = true },
            new FlatnessPlan(2, "flat") { Features = ["top"], General = true },
            new PerpendicularityPlan(3, "square") { Features = ["side"], Datums = ["A"], General = true },
            new FlatnessPlan(4, "flatter") { Features = ["top"], Tolerance = 0.01 },
        ],
    };
}

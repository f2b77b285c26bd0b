using Bostel.Core.Plans;

namespace Bostel.Core.Tests.Plans;

/// <summary>Patterns of the demo parts, as their drawings have them.</summary>
public class FeaturesAlikeTests
{
    /// <summary>Six holes ø6.6 on a circle of 84 mm, the first at 30°: numbered counter-clockwise seen from above.</summary>
    [Fact]
    public void TheHolesOfAFlangeAreFoundAndNumberedRound()
    {
        var nominal = DemoParts.Model("VH-310");
        var hole = nominal.Faces.First(f => f.Kind == "cylinder" && f.Internal
            && Math.Abs(((Core.Geometry.Cylinder3D)f.Shape!).Radius - 3.3) < 1e-6).Id;
        var alike = FeaturesAlike.Of(nominal, new(), hole);
        Assert.Equal(6, alike.Count);
        Assert.Equal(["Bore ø6.6 no. 1", "Bore ø6.6 no. 2"], alike.Take(2).Select(f => f.Name));
        Assert.Equal(6, alike.Select(f => f.Id).Distinct().Count());
        var angles = alike.Select(f => (Core.Geometry.Cylinder3D)nominal.Face(f.Faces[0]).Shape!)
            .Select(c => (Math.Atan2(c.Point.Y, c.Point.X) + (2 * Math.PI)) % (2 * Math.PI)).ToArray();
        Assert.Equal(angles.Order(), angles);
        Assert.All(angles.Zip(angles.Skip(1)), p => Assert.Equal(Math.PI / 3, p.Second - p.First, 1e-6));

        // What the plan has already is not offered again.
        var plan = new InspectionPlan { Features = [alike[2]] };
        Assert.Equal(5, FeaturesAlike.Of(nominal, plan, hole).Count);
    }

    [Fact]
    public void BoresOfOneSizeAndLengthAreAlikeAndOthersNot()
    {
        var nominal = DemoParts.Model("RC-077");
        Assert.Equal([29, 30], FeaturesAlike.Of(nominal, new(), 29).SelectMany(f => f.Faces).Order());
        Assert.Equal([37, 38], FeaturesAlike.Of(nominal, new(), 38).SelectMany(f => f.Faces).Order());
        Assert.Equal([33], FeaturesAlike.Of(nominal, new(), 33).SelectMany(f => f.Faces));
        Assert.Throws<BadInputException>(() => FeaturesAlike.Of(nominal, new(), 400));
    }
}

using Bostel.Core.Figures;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;
using Bostel.Core.Tests.Spatial;

namespace Bostel.Core.Tests.Figures;

public class FigureTests
{
    private static readonly ColourScale Scale = new(-0.1, 0.1, new());

    private static readonly FigurePlan FromAbove = new(new FigureCamera([0.5, 0.5, 1], [0, 0, 1], [0, 1, 0], 2));

    [Fact]
    public void ACubeFromAboveIsASquareInTheMiddle()
    {
        var rgb = FigureRenderer.Render(FromAbove, ClosestPointTests.Cube(), RigidTransform.Identity, null, Scale, null, 100, 100);
        bool Paper(int x, int y) => rgb[3 * ((y * 100) + x)] == 0xF7;
        Assert.False(Paper(50, 50));
        Assert.False(Paper(27, 27));
        Assert.True(Paper(22, 50));
        Assert.True(Paper(50, 78));
    }

    [Fact]
    public void ColoursSayWhichWayAndHowFar()
    {
        (double R, double G, double B) middle = Pixel(0);
        var (over, under) = (Pixel(0.09), Pixel(-0.09));
        Assert.True(over.R > over.B, "excess is warm");
        Assert.True(under.B > under.R, "missing is cool");
        Assert.True(middle.R > 200 && middle.B > 180, "on nominal is pale");
    }

    [Fact]
    public void ACloudIsDrawnInItsDeviationsNearPointsBeforeFarOnes()
    {
        // A grid of points above another one that must not be seen.
        var (coordinates, deviations) = (new List<double>(), new List<double>());
        foreach (var (z, deviation) in new[] { (0.0, -0.09), (1.0, 0.09) })
        {
            for (var i = 0; i < 441; i++)
            {
                coordinates.AddRange([i % 21 / 20.0, i / 21 / 20.0, z]);
                deviations.Add(deviation);
            }
        }

        var rgb = FigureRenderer.Render(FromAbove, new([.. coordinates], []), RigidTransform.Identity,
            [.. deviations], Scale, null, 100, 100);
        for (var at = 30; at <= 70; at += 8)
        {
            var pixel = 3 * ((at * 100) + at);
            Assert.True(rgb[pixel] > rgb[pixel + 2], "the near points show their excess, without gaps");
        }

        Assert.Equal(0xF7, rgb[3 * ((50 * 100) + 20)]);
    }

    [Fact]
    public void ProjectionPutsTheTargetInTheMiddleAndUpUp()
    {
        Assert.Equal((50, 50), FromAbove.Project(new(0.5, 0.5, 0.3), 100, 100));
        var (x, y) = FromAbove.Project(new(1, 1, 0), 100, 100);
        Assert.Equal((75, 25), (Math.Round(x, 9), Math.Round(y, 9)));
    }

    [Fact]
    public void PngHasItsSignatureAndSize()
    {
        var png = PngWriter.Encode(new byte[3 * 4 * 2], 4, 2);
        Assert.Equal([0x89, 0x50, 0x4E, 0x47], png[..4]);
        Assert.Equal((4, 2), (png[19], png[23]));
    }

    private static (double R, double G, double B) Pixel(double deviation)
    {
        var rgb = FigureRenderer.Render(FromAbove, ClosestPointTests.Cube(), RigidTransform.Identity,
            [.. Enumerable.Repeat(deviation, 8)], Scale, null, 60, 60);
        var at = 3 * ((30 * 60) + 30);
        return (rgb[at], rgb[at + 1], rgb[at + 2]);
    }
}

using Bostel.Benchmarks;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>Whether U holds the truth, in a short form; `bostel bench --only coverage` is the whole of it.</summary>
public class CoverageCampaignTests
{
    /// <summary>
    /// Of 95.45 % values that share scans and faces: with the weight of some 30 independent ones, three standard errors below are 84 %.
    /// </summary>
    [Theory]
    [InlineData("VH-310")]
    [InlineData("RC-077")]
    public void TheUncertaintyHoldsTheTruth(string part)
    {
        var nominal = DemoParts.Model(part);
        var campaign = new CoverageCampaign(nominal, nominal.Mesh.Bounds.Diagonal / 130);
        var trials = Enumerable.Range(1, 6).SelectMany(campaign.Run).ToList();
        Assert.True(trials.Count > 100);
        Assert.InRange(trials.Average(t => t.Held ? 1.0 : 0), 0.84, 1);

        // No face was moved by more than 0.02·√3 and a tilt of as much: no point of a neighbour may count to it.
        var profiles = trials.Where(t => t.Kind == "profile-of-a-surface").ToList();
        Assert.NotEmpty(profiles);
        Assert.All(profiles, t => Assert.InRange(t.Truth, 0, 2 * 2 * 2 * 0.02 * Math.Sqrt(3)));
    }
}

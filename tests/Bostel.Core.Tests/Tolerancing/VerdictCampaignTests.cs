using Bostel.Benchmarks;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>The campaign of planted defects in a short form; `bostel bench --only verdicts` is the whole of it.</summary>
public class VerdictCampaignTests
{
    [Theory]
    [InlineData("VH-310")]
    [InlineData("RC-077")]
    public void NoDefectIsAcceptedAndNoGoodPartRejected(string part)
    {
        var nominal = DemoParts.Model(part);
        var campaign = new VerdictCampaign(part, nominal, nominal.Mesh.Bounds.Diagonal / 150, 0.01);
        var trials = Enumerable.Range(1, 16).Select(campaign.Run).ToList();
        Assert.Empty(trials.Where(t => t.FarFalselyAccepted || t.FalselyRejected).Select(t => t.ToString()));

        // The trials are of both kinds, and most are decided.
        Assert.InRange(trials.Count(t => t.Truth > t.Tolerance), 4, 14);
        Assert.InRange(trials.Count(t => t.Verdict == Verdict.NonConforming), 3, 14);
        Assert.InRange(trials.Count(t => t.Verdict == Verdict.Conforming), 1, 12);
    }
}

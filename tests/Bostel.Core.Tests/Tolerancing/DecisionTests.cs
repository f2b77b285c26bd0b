using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>The decision rule of the standard; the others are among the reference cases.</summary>
public class DecisionTests
{
    /// <summary>
    /// The standard's rule proves 95 %: the guard band is 1.645 standard uncertainties, U being two of them (ISO 14253-1:2017, 4.2).
    /// </summary>
    [Theory]
    [InlineData(0.9177, Verdict.Conforming)]
    [InlineData(0.9178, Verdict.NotProven)]
    [InlineData(1.0822, Verdict.NotProven)]
    [InlineData(1.0823, Verdict.NonConforming)]
    public void TheStandardsGuardBandIsOneSided(double value, Verdict verdict) =>
        Assert.Equal(verdict, new StandardRule().Judge(value, null, 1, 0.1));
}

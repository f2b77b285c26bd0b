using Bostel.Core.ReferenceCases;

namespace Bostel.Core.Tests.Fitting;

/// <summary>Every fit against the verified reference set, within the tolerances stated there.</summary>
public class ReferenceFitTests
{
    public static TheoryData<string> Cases() => [.. ReferenceSet.Fits.Select(c => c.Id)];

    [Theory]
    [MemberData(nameof(Cases))]
    public void AgreesWithTheReference(string id)
    {
        foreach (var (key, error, allowed) in ReferenceSet.Fits.Single(c => c.Id == id).Errors())
        {
            Assert.True(error <= allowed, $"{id}: {key} is off by {error:G3}, allowed {allowed:G3}");
        }
    }
}

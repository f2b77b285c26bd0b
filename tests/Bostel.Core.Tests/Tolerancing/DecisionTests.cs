using System.Text.Json;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Tests.Tolerancing;

/// <summary>The decision rules against the verified reference cases.</summary>
public class DecisionTests
{
    public static TheoryData<string> Cases() =>
        [.. Directory.GetFiles(Path.Combine(AppContext.BaseDirectory, "Data", "tolerances"), "*decision*.json")
            .Select(f => Path.GetFileName(f)).Order()];

    [Theory]
    [MemberData(nameof(Cases))]
    public void AgreesWithTheReference(string file)
    {
        var json = JsonDocument.Parse(File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "Data", "tolerances", file))).RootElement;
        var (callout, features) = (json.GetProperty("callout"), json.GetProperty("features"));
        double? Limit(string key) => callout.TryGetProperty(key, out var v) && v.ValueKind == JsonValueKind.Number ? v.GetDouble() : null;
        DecisionRule rule = callout.GetProperty("rule").GetString() == "simple"
            ? new SimpleRule()
            : new GuardBandRule { GuardFactor = Limit("guardFactor") ?? 1 };
        var verdict = rule.Judge(features.GetProperty("measured").GetDouble(), Limit("lower"), Limit("upper"),
            features.GetProperty("expandedUncertainty").GetDouble());
        var word = verdict switch { Verdict.Conforming => "conforming", Verdict.NonConforming => "nonconforming", _ => "undetermined" };
        Assert.Equal(json.GetProperty("expected").GetProperty("decision").GetString(), word);
    }

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

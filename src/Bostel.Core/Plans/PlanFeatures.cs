using System.Collections.Concurrent;
using Bostel.Core.Features;

namespace Bostel.Core.Plans;

/// <summary>
/// The features of a plan on one scan, measured or constructed from others, each made when it is first asked for. Safe for concurrent use.
/// </summary>
/// <param name="leaveOut">False: isolated points far off stay in.</param>
public sealed class PlanFeatures(InspectionPlan plan, MeasuredScan scan, bool leaveOut = true)
{
    private readonly ConcurrentDictionary<string, Lazy<FeatureResult>> _known = new();

    /// <exception cref="BadInputException">It cannot be measured, or what it is made from cannot or does not determine it.</exception>
    public FeatureResult this[string id] => _known.GetOrAdd(id, name => new(() => Make(name))).Value;

    private FeatureResult Make(string id) => plan.Features.FirstOrDefault(f => f.Id == id) is { } feature
        ? scan.Of(feature, leaveOut)
        : plan.Constructions.FirstOrDefault(c => c.Id == id) is { } construction
            ? Constructed.Of(construction, [.. construction.From.Select(f => this[f])])
            : throw new BadInputException($"The plan has no feature '{id}'.");
}

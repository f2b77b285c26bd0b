using System.Collections.Concurrent;
using Bostel.Core.Nominals;

namespace Bostel.Core.Features;

/// <summary>
/// An aligned scan whose features are measured once each, whoever asks: two plans that ask for the same feature share it. Safe for
/// concurrent use.
/// </summary>
public sealed class MeasuredScan(AlignedScan scan, NominalModel nominal)
{
    // Two plans of a feature are the same when they are equal and name the same lists of faces and targets: at worst it is measured twice.
    private readonly ConcurrentDictionary<(FeaturePlan Plan, bool LeaveOut), Lazy<FeatureResult>> _known = new();

    public AlignedScan Scan => scan;

    /// <param name="leaveOut">False: isolated points far off stay in.</param>
    /// <exception cref="BadInputException">It cannot be measured.</exception>
    public FeatureResult Of(FeaturePlan feature, bool leaveOut = true) => _known.GetOrAdd(
        (feature, leaveOut), asked => new(() => FeatureExtraction.Measure(asked.Plan, scan, nominal, asked.LeaveOut))).Value;
}

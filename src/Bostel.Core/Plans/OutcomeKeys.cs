using System.Security.Cryptography;
using System.Text.Json;
using System.Text.Json.Serialization;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>What a scan is read from: the file's SHA-256, its suffix (which tells the format), what its columns are, its unit.</summary>
public sealed record ScanSource(string Sha, string Suffix, string? Columns, string Unit);

/// <summary>What a nominal is read from, and the SHA-256 of the model recognised in it.</summary>
public sealed record NominalSource(string FileSha, string Unit, string ModelSha);

/// <summary>
/// The keys of a piece's outcomes: each is the SHA-256 of the keys before it, of the plan's own section and of the method's version. Two
/// outcomes with the same key are the same to the last bit; an outcome is out of date when its key is not today's, and there is no other
/// notion of that.
/// </summary>
/// <param name="Features">By feature id.</param>
/// <param name="Values">By number of the characteristic: its value, whatever its limits.</param>
public sealed record OutcomeKeys(
    string Received, string Prepared, string Aligned, string Deviations, string Compared, IReadOnlyDictionary<string, string> Features,
    string Measured,
    IReadOnlyDictionary<int, string> Values, string Evaluated)
{
    // A method whose numbers change gets a new version here: everything that rests on it is then out of date. Preparing rests on the search
    // for the pose too.
    private const string ReceiveVersion = "receive/1";
    private const string PrepareVersion = "prepare/1";
    private const string AlignVersion = "align/7";
    private const string DeviationVersion = "deviations/3";
    private const string CompareVersion = "compare/1";
    private const string FeatureVersion = "feature/3";
    private const string ConstructionVersion = "construction/1";
    private const string ValueVersion = "value/5";
    private const string OtherWaysVersion = "other-ways/1";
    private const string JudgeVersion = "judge/3";
    private const string ReportVersion = "report/4";

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        NumberHandling = JsonNumberHandling.AllowNamedFloatingPointLiterals,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    };

    public static OutcomeKeys Of(ScanSource scan, NominalSource nominal, InspectionPlan plan)
    {
        var own = Alone(scan, nominal, plan.Under(null));
        if (plan.Alignments.Count == 0)
        {
            return own;
        }

        var under = plan.Alignments.ToDictionary(a => a.Name, a => Alone(scan, nominal, plan.Under(a.Name)));
        OutcomeKeys In(string? alignment) => alignment is null ? own : under[alignment];
        var features = plan.FeatureIds.ToDictionary(id => id, id => In(plan.AlignmentOf(id)).Features[id]);
        var values = plan.Characteristics.ToDictionary(c => c.No, c => In(c.Alignment).Values[c.No]);
        var otherWays = InOtherWays(plan, values, [own.Deviations, .. under.Values.Select(u => u.Deviations)]);
        return own with
        {
            Under = under,
            Map = In(plan.Compare.Alignment).Map,
            Compared = In(plan.Compare.Alignment).Compared,
            Features = features,
            Measured = AllOf(plan.FeatureIds.Select(id => features[id])),
            Values = values,
            OtherWays = otherWays,
            Evaluated = Judged(plan, values, otherWays),
        };
    }

    /// <summary>Of a plan with no alignment but its own.</summary>
    private static OutcomeKeys Alone(ScanSource scan, NominalSource nominal, InspectionPlan plan)
    {
        var received = Hash(ReceiveVersion, scan);
        var prepared = Hash(PrepareVersion, new { received, nominal, steps = plan.Prepare.Steps.Where(s => !s.Off) });
        var features = plan.Features.ToDictionary(f => f.Id);
        var datums = plan.Datums.ToDictionary(d => d.Label);
        var aligned = Hash(AlignVersion, new { prepared, plan.Align, rests = plan.Align.RestsOn(plan) });
        var deviations = Hash(DeviationVersion, new { aligned, plan.Compare.MaxDistance, plan.Compare.MaxAngleDegrees });
        var compared = Hash(CompareVersion, new { deviations, plan.Compare.Lower, plan.Compare.Upper });
        var featureKeys = features.ToDictionary(f => f.Key, f => Hash(FeatureVersion, new { deviations, feature = f.Value }));
        foreach (var construction in plan.Constructions)
        {
            featureKeys[construction.Id] = Hash(ConstructionVersion, new { construction, from = KeysOf(construction.From) });
        }

        string[] KeysOf(IEnumerable<string> ids) => [.. ids.Select(id => featureKeys[id])];
        var values = plan.Characteristics.ToDictionary(c => c.No, c => Hash(ValueVersion, new
        {
            deviations,
            characteristic = c.By(plan.Standard).Unjudged,
            features = KeysOf(c.Refers.Features),
            datums = c.Refers.Datums.Select(l => KeysOf(DatumLetters.Of(l).SelectMany(d => datums[d].Features))),
            section = c.Refers.Section is { } name ? plan.Compare.Sections.First(s => s.Name == name) with { Exaggeration = null } : null,
        }));
        var otherWays = InOtherWays(plan, values, [deviations]);
        return new(received, prepared, aligned, deviations, compared, featureKeys, AllOf(KeysOf(plan.FeatureIds)), values,
            Judged(plan, values, otherWays))
        { Map = deviations, OtherWays = otherWays };
    }

    /// <summary>The keys of the same scan under each of the plan's further alignments, by name.</summary>
    public IReadOnlyDictionary<string, OutcomeKeys> Under { get; private init; } = new Dictionary<string, OutcomeKeys>();

    /// <summary>By number of the characteristic: what was found in other ways; none where the plan does not ask for them.</summary>
    public IReadOnlyDictionary<int, string> OtherWays { get; private init; } = new Dictionary<int, string>();

    /// <summary>Of the deviations that the map shows: those of the alignment in which it stands.</summary>
    public required string Map { get; init; }

    /// <summary>The keys under an alignment of the plan; null: its own.</summary>
    public OutcomeKeys In(string? alignment) => alignment is null ? this : Under[alignment];

    private static string AllOf(IEnumerable<string> features) => Hash(FeatureVersion, features.ToArray());

    /// <param name="poses">Of the deviations in each alignment of the plan: what has no datums is looked at in all of them.</param>
    private static Dictionary<int, string> InOtherWays(InspectionPlan plan, IReadOnlyDictionary<int, string> values, string[] poses) =>
        plan.OtherWays
            ? plan.Characteristics.ToDictionary(c => c.No, c => Hash(OtherWaysVersion, new
            {
                value = values[c.No],
                poses = c.Refers.Datums.Count > 0 ? null : poses,
            }))
            : [];

    private static string Judged(InspectionPlan plan, IReadOnlyDictionary<int, string> values, Dictionary<int, string> otherWays) =>
        Hash(JudgeVersion, new
        {
            otherWays = otherWays.Count > 0 ? otherWays.Values : null,
            values = plan.Characteristics.Select(c => values[c.No]),
            limits = plan.Characteristics.Select(c => new { c.Limits, c.LeastCoverage, general = c.General ? true : (bool?)null }),
            plan.Decision,
            plan.Device,
            plan.Temperature,
        });

    /// <summary>The keys of all outcomes that must be there before all can be judged.</summary>
    public IEnumerable<string> Judging =>
        [Prepared, Aligned, Deviations, Map, Compared, .. Features.Values, .. Values.Values, .. OtherWays.Values];

    /// <summary>
    /// The keys of all outcomes that are kept, each with that of what it was made from. A further alignment may determine no pose on a
    /// piece; then it has none.
    /// </summary>
    public IReadOnlyDictionary<string, string?> All
    {
        get
        {
            // What stands in a further alignment is met there first: its key says so.
            var all = new Dictionary<string, string?> { [Prepared] = null };
            foreach (var keys in Under.Values.Append(this))
            {
                all[keys.Aligned] = keys.Prepared;
                all[keys.Deviations] = keys.Aligned;
                foreach (var made in keys.Features.Values.Concat(keys.Values.Values))
                {
                    all.TryAdd(made, keys.Deviations);
                }
            }

            foreach (var made in OtherWays.Values)
            {
                all.TryAdd(made, Deviations);
            }

            all[Compared] = Map;
            return all;
        }
    }

    /// <summary>The key of a report: everything printed in it.</summary>
    /// <param name="header">Names and numbers printed at its head.</param>
    public string Report(IReadOnlyList<FigurePlan> figures, InspectionPlan plan, object header)
    {
        var (compare, device) = (plan.Compare, plan.Device);
        return Hash(ReportVersion, new
        {
            Prepared,
            Aligned,
            Compared,
            Measured,
            Evaluated,
            figures,
            sections = compare.Sections.Count > 0 ? compare.Sections : null,
            maps = compare.Maps.Count > 0 ? compare.Maps : null,
            labels = compare.LabelsSay is [LabelContent.Value] ? null : compare.LabelsSay,
            explained = compare.Explain ? device : null,
            ramp = compare.Ramp == new RampPlan() ? null : compare.Ramp,
            header,
            named = Under.Count > 0 ? Under.Select(a => new { a.Key, a.Value.Aligned }) : null,
            layout = plan.Report,
            standard = plan.Standard == default ? (DrawingStandard?)null : plan.Standard,
            general = plan.General,
            shown = plan.Shown == default ? (ShownUnit?)null : plan.Shown,
        });
    }

    private static string Hash(string version, object content) =>
        Convert.ToHexStringLower(SHA256.HashData(JsonSerializer.SerializeToUtf8Bytes(new { version, content }, Json)));
}

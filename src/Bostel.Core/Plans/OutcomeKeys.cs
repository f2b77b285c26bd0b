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
    private const string AlignVersion = "align/5";
    private const string DeviationVersion = "deviations/3";
    private const string CompareVersion = "compare/1";
    private const string FeatureVersion = "feature/3";
    private const string ValueVersion = "value/4";
    private const string JudgeVersion = "judge/3";
    private const string ReportVersion = "report/2";

    private static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        NumberHandling = JsonNumberHandling.AllowNamedFloatingPointLiterals,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
    };

    public static OutcomeKeys Of(ScanSource scan, NominalSource nominal, InspectionPlan plan)
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
            featureKeys[construction.Id] = Hash(FeatureVersion, new { construction, from = KeysOf(construction.From) });
        }

        string[] KeysOf(IEnumerable<string> ids) => [.. ids.Select(id => featureKeys[id])];
        var values = plan.Characteristics.ToDictionary(c => c.No, c => Hash(ValueVersion, new
        {
            deviations,
            characteristic = c.Unjudged,
            features = KeysOf(c.Refers.Features),
            datums = c.Refers.Datums.Select(l => KeysOf(datums[l].Features)),
        }));
        var evaluated = Hash(JudgeVersion, new
        {
            values = plan.Characteristics.Select(c => values[c.No]),
            limits = plan.Characteristics.Select(c => new { c.Limits, c.LeastCoverage }),
            plan.Decision,
            plan.Device,
            plan.Temperature,
        });
        return new(received, prepared, aligned, deviations, compared, featureKeys,
            Hash(FeatureVersion, KeysOf(plan.FeatureIds)), values, evaluated);
    }

    /// <summary>The keys of all outcomes that are kept on the way to a judgement.</summary>
    public IEnumerable<string> All => [Prepared, Aligned, Deviations, Compared, .. Features.Values, .. Values.Values];

    /// <summary>The key of a report: everything printed in it.</summary>
    /// <param name="header">Names and numbers printed at its head.</param>
    public string Report(IReadOnlyList<FigurePlan> figures, object header) =>
        Hash(ReportVersion, new { Prepared, Aligned, Compared, Measured, Evaluated, figures, header });

    private static string Hash(string version, object content) =>
        Convert.ToHexStringLower(SHA256.HashData(JsonSerializer.SerializeToUtf8Bytes(new { version, content }, Json)));
}

using System.Text.Json;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Statistics;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.ReferenceCases;

/// <summary>What a case gives: numbers, words and truths by their names; a list of such for the members of a pattern.</summary>
public sealed class CaseOutcome : Dictionary<string, object?>;

/// <summary>
/// A case of tolerance evaluation with points, datums and a callout (docs/formats.md): it is evaluated by the same functions as the
/// characteristics of a plan.
/// </summary>
public static class ToleranceCase
{
    /// <summary>Numbers are compared as decimals of so many digits: limits count as written.</summary>
    private const int Digits = 12;

    /// <param name="json">One case.</param>
    /// <exception cref="BadInputException">Something is missing, or of a kind that is not known.</exception>
    public static CaseOutcome Evaluate(JsonElement json)
    {
        try
        {
            var callout = json.GetProperty("callout");
            var features = json.GetProperty("features");
            return Text(callout, "characteristic") switch
            {
                "decision" => Decided(callout, features),
                "capability" => Capable(callout, features),
                "gauge-rr" => Gauged(callout, features),
                "size" => Sized(callout, new("toleranced", features.GetProperty("toleranced"))),
                var kind => new GeometricalCase(kind!, callout, features).Evaluate(),
            };
        }
        catch (Exception e) when (e is KeyNotFoundException or InvalidOperationException or FormatException)
        {
            throw new BadInputException($"case: {e.Message}", e);
        }
    }

    /// <summary>Name of a case; that of its file where it has none.</summary>
    public static string IdOf(JsonElement json, string file) => Text(json, "id") ?? Path.GetFileNameWithoutExtension(file);

    internal static string? Text(JsonElement e, string key) =>
        e.TryGetProperty(key, out var t) && t.ValueKind == JsonValueKind.String ? t.GetString() : null;

    internal static double? Number(JsonElement e, string key) =>
        e.TryGetProperty(key, out var n) && n.ValueKind == JsonValueKind.Number ? n.GetDouble() : null;

    internal static bool AtMost(double a, double b) => Math.Round(a, Digits) <= Math.Round(b, Digits);

    private static CaseOutcome Decided(JsonElement callout, JsonElement features)
    {
        var (lower, upper) = (Number(callout, "lower"), Number(callout, "upper"));
        var u = Number(features, "expandedUncertainty") ?? 0;
        DecisionRule rule = Text(callout, "rule") == "simple"
            ? new SimpleRule()
            : new GuardBandRule { GuardFactor = Number(callout, "guardFactor") ?? 1 };
        var verdict = rule.Judge(features.GetProperty("measured").GetDouble(), lower, upper, u);
        var guard = (decimal)rule.Factor * (decimal)u;
        return new()
        {
            ["decision"] = verdict switch
            {
                Verdict.Conforming => "conforming",
                Verdict.NonConforming => "nonconforming",
                _ => "undetermined",
            },
            ["acceptanceLower"] = lower is { } l ? (double)((decimal)l + guard) : null,
            ["acceptanceUpper"] = upper is { } h ? (double)((decimal)h - guard) : null,
        };
    }

    private static CaseOutcome Capable(JsonElement callout, JsonElement features)
    {
        var found = Capability.Of(
            [.. features.GetProperty("values").EnumerateArray().Select(v => v.GetDouble())], Number(callout, "lower"),
            Number(callout, "upper"), (int)(Number(callout, "subgroupSize") ?? 1));
        return Known(new()
        {
            ["n"] = found.Values,
            ["mean"] = found.Mean,
            ["s"] = found.Deviation,
            ["Pp"] = found.Pp,
            ["Ppk"] = found.Ppk,
            ["Cp"] = found.Cp,
            ["Cpk"] = found.Cpk,
            ["sigmaWithin"] = found.Charts?.SigmaWithin,
            ["rBar"] = found.Charts?.MeanRange,
            ["xBarUcl"] = found.Charts?.MeanUpper,
            ["xBarCl"] = found.Charts is null ? null : found.Mean,
            ["xBarLcl"] = found.Charts?.MeanLower,
            ["rUcl"] = found.Charts?.RangeUpper,
            ["rCl"] = found.Charts?.MeanRange,
            ["rLcl"] = found.Charts?.RangeLower,
        });
    }

    /// <summary>Without what the case does not determine.</summary>
    private static CaseOutcome Known(CaseOutcome outcome)
    {
        foreach (var key in outcome.Where(p => p.Value is null).Select(p => p.Key).ToList())
        {
            outcome.Remove(key);
        }

        return outcome;
    }

    private static CaseOutcome Gauged(JsonElement callout, JsonElement features)
    {
        var study = GaugeStudy.Of(
            [.. features.GetProperty("values").EnumerateArray().Select(p => p.EnumerateArray()
                .Select(o => o.EnumerateArray().Select(v => v.GetDouble()).ToArray()).ToArray())],
            Number(callout, "alphaToPool") ?? 0.25);
        var (ss, ms) = (study.SumsOfSquares, study.MeanSquares);
        var (gauge, part) = (Math.Sqrt(study.Gauge), Math.Sqrt(study.Parts));
        return new()
        {
            ["ssPart"] = ss[0],
            ["ssOperator"] = ss[1],
            ["ssInteraction"] = ss[2],
            ["ssRepeatability"] = ss[3],
            ["msPart"] = ms[0],
            ["msOperator"] = ms[1],
            ["msInteraction"] = ms[2],
            ["msRepeatability"] = ms[3],
            ["fInteraction"] = study.F,
            ["pInteraction"] = study.P,
            ["pooled"] = study.Pooled,
            ["varRepeatability"] = study.Repeatability,
            ["varOperator"] = study.Operators,
            ["varInteraction"] = study.Interaction,
            ["varReproducibility"] = study.Reproducibility,
            ["varGrr"] = study.Gauge,
            ["varPart"] = study.Parts,
            ["varTotal"] = study.Total,
            ["percentStudyVariation"] = 100 * gauge / Math.Sqrt(study.Total),
            ["percentContribution"] = 100 * study.Gauge / study.Total,
            ["percentTolerance"] = 100 * 6 * gauge / (Number(callout, "toleranceWidth") ?? double.PositiveInfinity),
            ["ndc"] = (int)Math.Floor(Math.Sqrt(2) * part / gauge),
        };
    }

    private static CaseOutcome Sized(JsonElement callout, CaseFeature f)
    {
        var (lower, upper) = (Number(callout, "lower"), Number(callout, "upper"));
        bool Within(double least, double greatest) =>
            (lower is not { } l || AtMost(l, least)) && (upper is not { } u || AtMost(greatest, u));
        var (least, greatest) = f.PairSizes is { } sizes ? (sizes.Min(), sizes.Max()) : (double.NaN, double.NaN);
        switch (Text(callout, "modifier"))
        {
            case "LP":
                return new() { ["minimum"] = least, ["maximum"] = greatest, ["conforms"] = Within(least, greatest) };
            case "E":
                var criterion = f.Internal ? Criterion.MaximumInscribed : Criterion.MinimumCircumscribed;
                var envelope = 2 * ((Cylinder3D)ExtremalFit.Cylinder(f.AllPoints, criterion).Shape).Radius;
                return Known(new()
                {
                    ["value"] = envelope,
                    ["envelope"] = envelope,
                    ["minimum"] = f.PairSizes is null ? null : least,
                    ["maximum"] = f.PairSizes is null ? null : greatest,
                    ["conforms"] = f.Internal
                        ? Within(envelope, double.IsNaN(greatest) ? envelope : greatest)
                        : Within(double.IsNaN(least) ? envelope : least, envelope),
                });
            default:
                var value = Size.Diameter(f.Measured()).Value;
                return new() { ["value"] = value, ["conforms"] = Within(value, value) };
        }
    }
}

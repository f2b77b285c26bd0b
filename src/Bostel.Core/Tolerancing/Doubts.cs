using Bostel.Core.Features;
using static System.FormattableString;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// What a scan shows of the toleranced faces that a value does not hold. Nothing of it may vanish: with any of it conformity is not proven.
/// </summary>
internal static class Doubts
{
    /// <summary>More than this share of the points of a feature is no stray data.</summary>
    private const double MostLeftOut = 0.01;

    /// <summary>So many points of a face beside an area without counterpart are no ragged edge.</summary>
    private const int LeastContacts = 3;

    public static LeftOut LeftOutOf(IReadOnlyList<FeatureResult> evidence) => evidence.Aggregate(LeftOut.Nothing, (sum, f) =>
        new(sum.Count + f.LeftOut.Count, sum.Area + f.LeftOut.Area,
            Math.Abs(f.LeftOut.Extreme) > Math.Abs(sum.Extreme) ? f.LeftOut.Extreme : sum.Extreme));

    public static IEnumerable<string> Of(
        CharacteristicPlan plan, IReadOnlyList<FeatureResult> evidence, LeftOut left, EvaluationContext context)
    {
        foreach (var area in Against(plan, evidence, context))
        {
            var how = area.Beside.Count > 0 ? "hang together with it" : "stand before it";
            yield return Invariant(
                $"{area.Area:0.#} mm² of the scan {how} and have no counterpart, up to {area.Reach:0.##} mm off at ({area.At.X:0.#}, {area.At.Y:0.#}, {area.At.Z:0.#})");
        }

        if (left.Count > MostLeftOut * evidence.Sum(f => f.Used + f.LeftOut.Count))
        {
            yield return Invariant($"{left.Count} isolated points were left out, up to {left.Extreme:+0.###;-0.###} mm off");
        }
    }

    /// <summary>Areas without counterpart that grow from the toleranced faces or stand before them.</summary>
    public static IEnumerable<UnmatchedArea> Against(
        CharacteristicPlan plan, IReadOnlyList<FeatureResult> evidence, EvaluationContext context)
    {
        var faces = plan.Faces.Concat(evidence.SelectMany(f => f.Plan.Faces)).ToHashSet();
        var inside = evidence.SelectMany(f => f.Vertices).ToHashSet();
        var map = context.Scan.Deviations;
        return context.Unmatched.Where(a => a.Before.Any(faces.Contains) || a.Beside.Count(Holds) >= LeastContacts);

        // A feature's margin keeps its edges out of this too.
        bool Holds(int v) => inside.Count > 0
            ? inside.Contains(v)
            : plan.Faces.Contains(context.Nominal.FaceOfTriangle[map.Triangles[v]]);
    }
}

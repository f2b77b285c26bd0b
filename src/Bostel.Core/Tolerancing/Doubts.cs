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

    /// <param name="named">Faces of the nominal that the value rests on beside those of features.</param>
    /// <param name="features">The toleranced ones and the datums.</param>
    /// <param name="left">What they leave out.</param>
    public static IEnumerable<string> Of(
        IReadOnlyList<int> named, IReadOnlyList<FeatureResult> features, LeftOut left, EvaluationContext context)
    {
        foreach (var area in Against(named, features, context))
        {
            var how = area.Beside.Count > 0 ? "hang together with it" : "stand before it";
            var (size, off) = (Invariant($"{area.Area:0.#} mm²"), Invariant($"up to {area.Reach:0.##} mm off"));
            yield return Invariant(
                $"{size} of the scan {how} and have no counterpart, {off} at ({area.At.X:0.#}, {area.At.Y:0.#}, {area.At.Z:0.#})");
        }

        if (left.Count > MostLeftOut * features.Sum(f => f.Used + f.LeftOut.Count))
        {
            yield return "more was left out than stray data makes up";
        }
    }

    /// <summary>Areas without counterpart that grow from the toleranced faces or the datums, or stand before them.</summary>
    public static IEnumerable<UnmatchedArea> Against(
        IReadOnlyList<int> named, IReadOnlyList<FeatureResult> features, EvaluationContext context)
    {
        if (context.Unmatched.Count == 0)
        {
            return [];
        }

        var faces = named.Concat(features.SelectMany(f => f.Faces)).ToHashSet();

        // A feature's margin keeps its edges out of this too.
        var inside = features.SelectMany(f => f.Vertices).ToHashSet();
        var map = context.Scan.Deviations;
        bool Holds(int v) => inside.Contains(v) || named.Contains(context.Nominal.FaceOfTriangle[map.Triangles[v]]);
        return context.Unmatched.Where(a => a.Before.Any(faces.Contains) || a.Beside.Count(Holds) >= LeastContacts);
    }
}

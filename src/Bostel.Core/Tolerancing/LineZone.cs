using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// The size of the zone that holds the places of an axis or centre, with its uncertainty. A zone's size is a seminorm of the deviations:
/// errors change it by no more than the size of their own zone. How large that is comes from 200 draws of the errors, because a radial
/// error is not one-dimensional (propagation of distributions, JCGM 101:2008).
/// </summary>
/// <param name="Across">What of a displacement counts, linear.</param>
/// <param name="Size">Of the smallest zone that holds such deviations.</param>
internal sealed record LineZone(Func<Vector3D, Vector3D> Across, Func<Vector3D[], double> Size)
{
    private const int Trials = 200;
    private const double Share = 0.9545;

    /// <summary>Twice the greatest distance from where the places should be.</summary>
    public static double Doubled(Vector3D[] deviations) => 2 * deviations.Max(d => d.Length);

    /// <param name="f">The feature the places belong to, in their coordinates.</param>
    /// <param name="places">What is judged.</param>
    /// <param name="freed">The motion that the datums leave free, as it was used.</param>
    /// <param name="from">Any points from which deviations count, one a place.</param>
    /// <param name="system">Its errors displace the places as well; null: no datum.</param>
    public (double Value, double Raw, IReadOnlyList<Contribution> Budget) Of(
        FeatureResult f, AxisPlaces places, RigidTransform freed, Vector3D[] from, DatumSystem? system)
    {
        Vector3D[] Deviations(Vector3D[] at) => [.. at.Select((p, i) => Across(freed.Apply(p) - from[i]))];
        var own = places.Errors.Select(e => e.Select(v => Across(freed.Rotate(v))).ToArray()).ToList();
        var raw = Size(Deviations(places.Places));
        var datums = (system?.Errors ?? []).GroupBy(e => e.Source).Select((g, i) => new Contribution(
            g.Key,
            Quantile(Draws([.. g.Select(e => places.Places.Select(p => Across(e.Motion.Of(freed.Apply(p)))).ToArray())], i + 1)
                .Select(Size)) / 2,
            g.Min(e => e.Freedom)));
        const string Source = "scatter of the feature's points";
        if (places.Smooth is not { } line)
        {
            return (raw, raw, Contribution.Of([new(Source, Quantile(Draws(own, 0).Select(Size)) / 2, f.Freedom), .. datums]));
        }

        // Noise bends an extracted line and so adds to its zone: less on a bent or leaning line than on a true one. Taken is the middle.
        var smooth = Deviations(line);
        var noisy = Draws(own, 0).Select(d => Size([.. smooth.Zip(d, (a, b) => a + b)])).ToArray();
        var least = Math.Max(0, noisy.Average() - Size(smooth));
        var gap = Math.Max(0, Draws(own, 0).Select(Size).Average() - least);
        var rigid = Quantile(Draws([.. f.ErrorMotions.Select(m => places.Places.Select(p => Across(m.Of(p))).ToArray())], 0).Select(Size))
            / 2;
        var scatter = Math.Max(rigid * rigid, noisy.Average(v => Math.Pow(v - noisy.Average(), 2)));
        return (Math.Max(0, raw - least - (gap / 2)), raw,
            Contribution.Of([new(Source, Math.Sqrt(scatter + (gap * gap / 12)), f.Freedom), .. datums]));
    }

    /// <summary>How far the errors displace each place, drawn at random.</summary>
    private static IEnumerable<Vector3D[]> Draws(List<Vector3D[]> errors, int stream)
    {
        for (var k = 0; k < Trials; k++)
        {
            var noise = new SeededNoise((stream * Trials) + k);
            var off = new Vector3D[errors.Count == 0 ? 1 : errors[0].Length];
            for (var e = 0; e < errors.Count; e++)
            {
                var z = noise.Normal(e);
                for (var i = 0; i < off.Length; i++)
                {
                    off[i] += z * errors[e][i];
                }
            }

            yield return off;
        }
    }

    /// <summary>The value that 95.45 % of the sizes do not exceed.</summary>
    private static double Quantile(IEnumerable<double> sizes)
    {
        var sorted = sizes.Order().ToArray();
        return sorted[Math.Min(sorted.Length - 1, (int)(Share * sorted.Length))];
    }
}

using Bostel.Core.Fitting;
using Bostel.Core.Nominals;

namespace Bostel.Core.Features;

/// <summary>
/// What was left out of a feature: how many points, how much surface they stand for (mm²), and how far the farthest lies from the nominal
/// (signed, mm).
/// </summary>
public sealed record LeftOut(int Count, double Area, double Extreme)
{
    public static readonly LeftOut Nothing = new(0, 0, 0);

    /// <summary>All together.</summary>
    public static LeftOut Of(IEnumerable<LeftOut> parts) => parts.Aggregate(Nothing, (sum, p) => new(
        sum.Count + p.Count, sum.Area + p.Area, Math.Abs(p.Extreme) > Math.Abs(sum.Extreme) ? p.Extreme : sum.Extreme));
}

/// <summary>
/// Points that may be left out of a feature. A residual does not tell a spike from a defect, but what hangs together on the surface is the
/// part however far off it lies: only points far from the feature that stand alone, or two or three together, are taken for stray data.
/// </summary>
internal static class IsolatedPoints
{
    /// <summary>In robust standard deviations of the residuals.</summary>
    private const double Far = 5;

    /// <summary>Points that hang together and may still be stray.</summary>
    private const int LargestGroup = 3;

    /// <summary>Places in <paramref name="vertices"/> that may be left out.</summary>
    /// <param name="points">Their coordinates, 3·N.</param>
    /// <param name="onFace">Whether a scan point lies on the feature's faces, its margin included.</param>
    public static HashSet<int> Find(
        double[] points, IReadOnlyList<int> vertices, NominalFace face, AlignedScan scan, Func<int, bool> onFace)
    {
        var fit = LeastSquares.Fit(face.Kind, points, new() { Start = face.Shape });
        var residuals = fit.Residuals;
        var sizes = residuals.Select(Math.Abs).Order().ToArray();
        var limit = Math.Max(RobustFit.Insignificant, Far * 1.4826 * sizes[sizes.Length / 2]);
        var placeOf = new Dictionary<int, int>();
        for (var i = 0; i < vertices.Count; i++)
        {
            if (Math.Abs(residuals[i]) > limit)
            {
                placeOf[vertices[i]] = i;
            }
        }

        var near = new List<int>();
        return [.. scan.Beside.Groups(placeOf.Keys).Where(g => g.Count <= LargestGroup && !g.Any(GoesOn)).SelectMany(g => g)
            .Select(v => placeOf[v])];

        // What goes on into the margin, as far off there, does not stand alone.
        bool GoesOn(int v)
        {
            scan.Beside.Of(v, near);
            return near.Any(o => !placeOf.ContainsKey(o) && onFace(o)
                && Math.Abs(fit.Shape.Distance(scan.Transform.Apply(scan.Mesh.Vertex(o)))) > limit);
        }
    }
}

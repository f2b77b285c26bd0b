using Bostel.Core.Fitting;
using Bostel.Core.Meshes;

namespace Bostel.Core.Segmentation;

/// <summary>
/// The surface under a picked triangle: the largest patch about it that runs over no edge tells a first shape, and the region near that
/// shape the next, until neither changes (region growing by surface fitting, Besl and Jain 1988). Answered while the user waits, so few
/// points are fitted at a time.
/// </summary>
internal sealed class PickedSurface(TriangleMesh mesh)
{
    /// <summary>Patches about the triangle: the most triangles, and the cosine of the largest turn from one to the next.</summary>
    private static readonly (int Most, float Gentle)[] _patches = [(40, 0.9f), (120, 0.9f), (400, 0.97f), (1500, SurfaceGrowth.Gentle)];

    /// <summary>Triangles that are too few to tell a shape.</summary>
    private const int Fewest = 12;

    /// <summary>How much rougher a patch may be than a smaller one, and a region than its patch.</summary>
    private const double Rougher = 2;

    /// <summary>Triangles off the surface by more, in standard deviations, are not on it.</summary>
    private const double Sigmas = 4;

    /// <summary>
    /// How much larger a region may be than the one whose shape it is grown on: farther out that shape is not known well enough.
    /// </summary>
    private const int Widening = 20;

    /// <summary>Triangles that tell a shape well enough for all of it.</summary>
    private const int Large = 30_000;

    private const int Rounds = 8;

    /// <summary>
    /// Share of the band by which a shape may move without the region being grown anew, and by which a region may change without the shape
    /// being another.
    /// </summary>
    private const double Still = 0.25, Same = 0.01;

    /// <summary>A shape that has become rougher by this factor may be another kind.</summary>
    private const double Doubtful = 1.2;

    private readonly SurfaceGrowth _growth = new(mesh);
    private readonly SurfaceFits _fits = new(mesh, 800);

    /// <summary>The surface; null when no patch about the triangle determines one.</summary>
    /// <param name="band">Half width of the band, mm, with normals up to 25° off; when null four times the scatter, with normals as far
    /// off as the noise turns them.</param>
    public GrownSurface? At(int seed, double? band)
    {
        if (Patch(seed) is not { } start)
        {
            return null;
        }

        var (grown, turning) = (start, _fits.Turning(start.Triangles, start.Fit.Shape));
        var farthest = Math.Max(SurfaceGrowth.Agreeing, band is null ? Math.Cos(2 * turning) : -1);
        var most = Widening * start.Triangles.Length;
        for (var round = 0; round < Rounds; round++)
        {
            var width = band ?? Math.Max(Sigmas * Math.Min(grown.Fit.Scatter, Rougher * start.Fit.Scatter), 1e-6);

            // What an edge turns is selected with the surface but does not tell its shape.
            var triangles =
                _growth.Near(seed, new(grown.Fit.Shape, width, farthest), null, most, grown.Complete ? grown.Triangles.Length : most);
            var points = _fits.Points(triangles, new(grown.Fit.Shape, width, Math.Cos(turning)));
            var again = SurfaceFits.Again(grown.Fit.Shape, points);
            var settled = again is not null && triangles.Length < most && IsStill(grown, again, points, width, triangles.Length);
            var fit = again is null || settled || again.Scatter > Doubtful * grown.Fit.Scatter ? _fits.BestOfAll(points, triangles) : again;
            if (triangles.Length < Fewest || fit is null)
            {
                return grown;
            }

            settled &= fit.Shape.Kind == grown.Fit.Shape.Kind;
            grown = new(triangles, fit, triangles.Length < most);
            if (settled)
            {
                break;
            }

            most = grown.Complete || most >= Large ? int.MaxValue : Widening * most;
        }

        return grown;
    }

    /// <summary>Whether another region would be the same, because the shape or the region has hardly changed.</summary>
    private static bool IsStill(GrownSurface before, FitResult now, double[] points, double width, int count) =>
        before.Fit.Shape.Distances(points).Zip(now.Residuals, (a, b) => Math.Abs(a - b)).Max() < Still * width
        || (before.Complete && Math.Abs(count - before.Triangles.Length) < Same * count);

    /// <summary>The largest patch that is not much rougher than a smaller one, as those are that run over an edge.</summary>
    private GrownSurface? Patch(int seed)
    {
        GrownSurface? patch = null;
        foreach (var (most, gentle) in _patches)
        {
            var triangles = _growth.Patch(seed, most, _ => true, gentle);
            if (triangles.Length > (patch?.Triangles.Length ?? Fewest) && _fits.BestOfAll(_fits.Points(triangles), triangles) is { } fit
                && (patch is null || fit.Scatter < Rougher * Math.Max(patch.Fit.Scatter, 1e-6)))
            {
                patch = new(triangles, fit, false);
            }
        }

        return patch;
    }
}

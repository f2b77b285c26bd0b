using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Segmentation;

/// <summary>Grows a proposed surface over the free triangles of a CAD mesh and judges whether the region speaks for it.</summary>
/// <param name="label">Region of each triangle, −1 while it is free.</param>
/// <param name="tolerance">How far a corner may lie off its surface, mm.</param>
/// <param name="noise">Largest standard deviation of corners that lie on their surface but for how the file writes numbers, mm.</param>
internal sealed class ExactGrowth(
    TriangleMesh mesh, Vector3D[] normals, int[] label, ExactShapes shapes, RegionEvidence evidence, double tolerance, double noise)
{
    private const int MostRefits = 8;

    /// <summary>Corners just outside a surface that really ends lie off it by more than this many tolerances.</summary>
    private const double Abrupt = 10;

    /// <summary>Share of a surface that must lie on it quietly when the rest is what grew over its border.</summary>
    private const double Quiet = 0.6;

    private readonly MeshFlood _flood = new(mesh);

    /// <summary>
    /// The region of a surface through a seed, the surface fitted anew while it grows; null when it is no surface of the part.
    /// </summary>
    public (Shape Shape, List<int> Triangles, double Area)? From(Shape shape, int seed)
    {
        if (!Fits(shape, seed))
        {
            return null;
        }

        var region = Grow(shape, seed);
        for (var round = 0; round < MostRefits && region.Count >= 4; round++)
        {
            if (shapes.Refit(shape, region) is not { } better || !Fits(better, seed))
            {
                break;
            }

            var more = Grow(better, seed);
            var grown = more.Count > region.Count;
            if (more.Count >= region.Count)
            {
                (shape, region) = (better, more);
            }

            if (!grown)
            {
                break;
            }
        }

        return Judge(shape, region) is { } sure ? (sure, region, region.Sum(mesh.TriangleArea)) : null;
    }

    /// <summary>
    /// The surface where the region speaks for it, else null: more corners and facets than many surfaces hold, an abrupt end where smooth
    /// neighbours are still free, and corners off it by noise alone. Those of a smooth piece of another surface lie off it by anything up
    /// to the tolerance.
    /// </summary>
    private Shape? Judge(Shape shape, List<int> region)
    {
        var seen = evidence.Look(shape, region);
        if (!IsDetermined(shape, seen) || seen.Departure <= Abrupt * tolerance)
        {
            return null;
        }

        if (seen.Scatter <= noise)
        {
            return shape;
        }

        // A true surface may have grown a little over its border, onto what leaves it slowly there.
        var core = region.Where(t => evidence.Off(shape, t) <= 3 * noise).ToList();
        return core.Count >= Quiet * region.Count && shapes.Refit(shape, core) is { } better
            && evidence.Look(better, core) is var sure && sure.Scatter <= noise && sure.Departure > Abrupt * tolerance ? better : null;
    }

    private List<int> Grow(Shape shape, int seed) => [.. _flood.Spread(seed, int.MaxValue, (from, to) =>
        label[to] < 0 && (shape is Plane3D || evidence.IsSmooth(from, to)) && Fits(shape, to))];

    /// <summary>Whether a triangle's corners lie on a surface and it faces as the surface does there.</summary>
    public bool Fits(Shape shape, int t)
    {
        if (evidence.Off(shape, t) > tolerance)
        {
            return false;
        }

        var (a, b, c) = mesh.Triangle(t);
        var along = Math.Abs(shape.Gradient((a + b + c) / 3).Dot(normals[t]));
        return along > (shape is Plane3D ? 0.9998 : 0.8);
    }

    /// <summary>Some facets, and more corners than the surface has parameters: fewer lie on many surfaces.</summary>
    private static bool IsDetermined(Shape shape, in RegionEvidence.Evidence seen)
    {
        // Two rows of corners always lie on a sphere, and near many a torus. Where more may follow beyond its border, a few facets may be a
        // piece of anything.
        var (corners, facets) = (shape is Torus3D ? 16 : seen.GoesOn ? 12 : 8, seen.GoesOn ? 5 : 3);
        return shape is Plane3D
            || ((seen.HasInside || shape is not (Sphere3D or Torus3D)) && seen.Corners >= corners && seen.Facets >= facets);
    }
}

using Bostel.Core.Meshes;
using Bostel.Core.Nominals;

namespace Bostel.Core.Segmentation;

/// <summary>
/// Recognises planes, cylinders, cones, spheres and tori in a mesh exported from CAD, whose corners lie on the exact surfaces and whose
/// triangles are large and orderly. From a seed (largest first) every kind is tried on the smooth neighbourhood and grown over all
/// connected triangles whose corners lie on it; the kind that covers the most area wins. A surface counts only when it has more corners
/// than it needs and ends abruptly: where its corners leave it slowly, it is a piece of a freeform surface. What is left is grouped across
/// smooth edges as freeform.
/// </summary>
public static class CadMeshSegmentation
{
    private const int Passes = 4;

    /// <summary>Segments a closed or open mesh (mm).</summary>
    /// <param name="sensitivity">0.5 to 2: how closely corners must lie on a surface. Higher tells surfaces apart that differ less, lower
    /// bears a coarser file.</param>
    /// <param name="precision">Largest rounding error of a coordinate, mm; found from the coordinates when null.</param>
    /// <exception cref="BadInputException">A sensitivity out of range.</exception>
    public static NominalModel Recognise(TriangleMesh mesh, double sensitivity = 1, double? precision = null,
        IReadOnlyList<string>? remarks = null, CancellationToken cancel = default)
    {
        if (!(sensitivity is >= 0.5 and <= 2))
        {
            throw new BadInputException("sensitivity: must lie between 0.5 and 2.");
        }

        // CAD systems place corners on surfaces to about 1e-7 of the part; a corner on an edge lies on both within the sum. Whole numbers
        // may be chance.
        var written = precision ?? CoordinatePrecision.Of(mesh.Coordinates);
        var tolerance = Math.Clamp(6 * written, 2e-7 * mesh.Bounds.Diagonal, 1e-5 * mesh.Bounds.Diagonal) / Math.Pow(sensitivity, 3);
        var regions = new CadRegions(mesh, tolerance, Math.Max(0.15 * tolerance, 0.65 * written));
        var order = Enumerable.Range(0, mesh.TriangleCount).OrderByDescending(mesh.TriangleArea).ThenBy(t => t).ToArray();
        for (var pass = 0; pass < Passes; pass++)
        {
            var before = regions.Shapes.Count;
            foreach (var seed in order)
            {
                cancel.ThrowIfCancellationRequested();
                regions.Claim(seed, pass, lenient: pass == Passes - 1);
            }

            if (pass > 0 && regions.Shapes.Count == before)
            {
                // Only the last, lenient pass may still find something.
                pass = Math.Max(pass, Passes - 2);
            }

            // What was beside another surface then stands alone now.
            regions.RetryBesideClaimed(planes: pass == Passes - 2);
        }

        regions.ReleaseDoubtful();
        regions.GroupFreeform();
        regions.Absorb();
        var members = new List<int>[regions.Shapes.Count];
        for (var i = 0; i < members.Length; i++)
        {
            members[i] = [];
        }

        for (var t = 0; t < mesh.TriangleCount; t++)
        {
            members[regions.Label[t]].Add(t);
        }

        var faces = members.Select((m, id) => NominalFaceBuilder.Build(id, regions.Shapes[id], mesh, m)).ToList();
        return new(mesh, regions.Label, faces, regions.Edges(), 0, remarks ?? []);
    }
}

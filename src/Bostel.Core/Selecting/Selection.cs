using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Selecting;

/// <summary>What selections and steps may refer to beyond the scan itself.</summary>
/// <param name="Nominal">Index of the nominal; null when the part has none.</param>
/// <param name="Pose">Scan to nominal; called only when a rule needs it.</param>
public sealed record PreparationContext(TriangleTree? Nominal, Func<CancellationToken, RigidTransform>? Pose)
{
    public double? NominalArea { get; } = Nominal?.Mesh.Area();

    /// <exception cref="BadInputException">There is no nominal to be posed on.</exception>
    public RigidTransform PoseOfScan(CancellationToken cancel = default) =>
        Pose is null ? throw new BadInputException("This rule needs the part's nominal, and there is none.") : Pose(cancel);
}

/// <summary>
/// Works selection terms out on a mesh, triangle by triangle, or on a cloud point by point ("items").
/// </summary>
public static class Selection
{
    /// <returns>One flag a triangle, or one a point of a cloud.</returns>
    /// <exception cref="BadInputException">A term is incomplete, or needs triangles or a nominal that are not there.</exception>
    public static bool[] Resolve(
        TriangleMesh mesh, IReadOnlyList<SelectionTerm> terms, PreparationContext context, CancellationToken cancel = default)
    {
        var items = new SelectionItems(mesh);
        var selected = new bool[items.Count];
        RigidTransform? pose = null;
        for (var i = 0; i < terms.Count; i++)
        {
            var term = terms[i];
            term.Check($"selection {i + 1}");
            cancel.ThrowIfCancellationRequested();
            pose ??= term.NeedsPose ? context.PoseOfScan(cancel) : null;
            selected = term.Apply(selected, items, term.NeedsPose ? pose!.Value : RigidTransform.Identity, context);
        }

        return selected;
    }
}

/// <summary>The triangles of a mesh, or the points of a cloud, as things to select.</summary>
public sealed class SelectionItems(TriangleMesh mesh)
{
    public TriangleMesh Mesh { get; } = mesh;
    public int Count { get; } = mesh.TriangleCount > 0 ? mesh.TriangleCount : mesh.VertexCount;
    public bool AreTriangles { get; } = mesh.TriangleCount > 0;

    public Vector3D Center(int i)
    {
        if (!AreTriangles)
        {
            return Mesh.Vertex(i);
        }

        var (a, b, c) = Mesh.Triangle(i);
        return (a + b + c) / 3;
    }

    /// <exception cref="BadInputException">The scan is a cloud.</exception>
    public void NeedTriangles(string kind)
    {
        if (!AreTriangles)
        {
            throw new BadInputException($"'{kind}' follows triangles, and this scan is a cloud of points: mesh it first, or select by "
                + "lasso, brush, plane or distance.");
        }
    }

    /// <summary>Flags by a rule, in parallel.</summary>
    public bool[] Where(Func<int, bool> rule)
    {
        var flags = new bool[Count];
        Parallel.For(0, (Count + 8191) / 8192, chunk =>
        {
            for (var i = chunk * 8192; i < Math.Min(Count, (chunk + 1) * 8192); i++)
            {
                flags[i] = rule(i);
            }
        });
        return flags;
    }
}

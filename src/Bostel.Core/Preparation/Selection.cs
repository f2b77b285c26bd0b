using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Preparation;

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
            selected = Apply(term, selected, items, term.NeedsPose ? pose!.Value : RigidTransform.Identity, context);
        }

        return selected;
    }

    private static bool[] Apply(SelectionTerm term, bool[] selected, SelectionItems items, RigidTransform pose, PreparationContext context)
    {
        switch (term.Kind)
        {
            case "invert": return [.. selected.Select(s => !s)];
            case "widen": return Widen(selected, items, term.Rows!.Value, true);
            case "narrow": return Widen(selected, items, term.Rows!.Value, false);
            default: break;
        }

        var chosen = term.Kind switch
        {
            "lasso" => ViewSelection.Lasso(term, items, pose),
            "brush" => Brush(term, items, pose),
            "side" => Side(term, items, pose),
            "grow" => GrowSelection.ByTurn(items, Seed(term, items, pose), term.Angle!.Value),
            "surface" => GrowSelection.SameSurface(items, Seed(term, items, pose), term.Distance),
            "piece" => PieceOf(items, Seed(term, items, pose)),
            "beyond" => Beyond(term, items, pose, context.Nominal!),
            "pieces" => PiecesBelow(term, items),
            "loose" => Loose(items, context.NominalArea),
            _ => [.. Enumerable.Repeat(true, items.Count)],
        };
        var add = term.Op == "add";
        for (var i = 0; i < chosen.Length; i++)
        {
            chosen[i] = add ? selected[i] || chosen[i] : selected[i] && !chosen[i];
        }

        return chosen;
    }

    private static int Seed(SelectionTerm term, SelectionItems items, RigidTransform pose)
    {
        items.NeedTriangles(term.Kind);
        return NearestTriangle.At(items.Mesh, pose.Inverse().Apply(Vector3D.FromArray(term.Point!)));
    }

    private static bool[] Brush(SelectionTerm term, SelectionItems items, RigidTransform pose)
    {
        var back = pose.Inverse();
        var path = term.Path!.Chunk(3).Select(p => back.Apply(Vector3D.FromArray(p))).ToArray();
        var reach = Box3D.Of(path);
        var (radius, low, high) = (term.Radius!.Value, reach.Min, reach.Max);
        return items.Where(i =>
        {
            var p = items.Center(i);
            return p.X > low.X - radius && p.X < high.X + radius && p.Y > low.Y - radius && p.Y < high.Y + radius && p.Z > low.Z - radius
                && p.Z < high.Z + radius &&
                Enumerable.Range(0, Math.Max(1, path.Length - 1))
                    .Any(k => DistanceToSegment(p, path[k], path[Math.Min(k + 1, path.Length - 1)]) <= radius);
        });
    }

    private static double DistanceToSegment(Vector3D p, Vector3D a, Vector3D b)
    {
        var d = b - a;
        var t = d.LengthSquared > 0 ? Math.Clamp((p - a).Dot(d) / d.LengthSquared, 0, 1) : 0;
        return Vector3D.Distance(p, a + (t * d));
    }

    private static bool[] Side(SelectionTerm term, SelectionItems items, RigidTransform pose)
    {
        var (point, normal) = (Vector3D.FromArray(term.Point!), Vector3D.FromArray(term.Normal!));
        return items.Where(i => (pose.Apply(items.Center(i)) - point).Dot(normal) > 0);
    }

    private static bool[] Beyond(SelectionTerm term, SelectionItems items, RigidTransform pose, TriangleTree nominal) =>
        items.Where(i => !nominal.Closest(pose.Apply(items.Center(i)), term.Distance!.Value).Found);

    private static bool[] PieceOf(SelectionItems items, int seed)
    {
        var (labels, _) = items.Mesh.Topology.Pieces();
        return items.Where(i => labels[i] == labels[seed]);
    }

    /// <summary>All pieces but the part.</summary>
    private static bool[] Loose(SelectionItems items, double? nominalArea)
    {
        items.NeedTriangles("loose");
        var (pieces, labels) = LoosePieces.Find(items.Mesh, nominalArea);
        var part = pieces.Where(p => p.IsPart).Select(p => p.Number).ToHashSet();
        return items.Where(i => !part.Contains(labels[i]));
    }

    private static bool[] PiecesBelow(SelectionTerm term, SelectionItems items)
    {
        items.NeedTriangles(term.Kind);
        var (pieces, labels) = LoosePieces.Find(items.Mesh, null);
        var small = new bool[pieces.Count];
        foreach (var piece in pieces)
        {
            small[piece.Number] = piece.Triangles < term.Triangles || piece.Area < term.Area;
        }

        return items.Where(i => small[labels[i]]);
    }

    /// <summary>Adds the neighbours of what is selected, row by row; or of what is not selected to that.</summary>
    private static bool[] Widen(bool[] selected, SelectionItems items, int rows, bool wider)
    {
        items.NeedTriangles(wider ? "widen" : "narrow");
        var neighbours = items.Mesh.Topology.Neighbours;
        var now = (bool[])selected.Clone();
        for (var row = 0; row < rows; row++)
        {
            var before = now;
            now = items.Where(t => before[t] == wider || Touches(t, before, wider) ? wider : !wider);
        }

        return now;

        bool Touches(int t, bool[] flags, bool value)
        {
            for (var h = 3 * t; h < (3 * t) + 3; h++)
            {
                if (neighbours[h] >= 0 && flags[neighbours[h]] == value)
                {
                    return true;
                }
            }

            return false;
        }
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

using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Comparison;

/// <summary>
/// One outline of a section: 3·N coordinates, mm. A closed one does not repeat its first point; the material lies to the left, seen
/// against the normal.
/// </summary>
public sealed record SectionOutline(double[] Points, bool Closed)
{
    /// <summary>The triangle that was cut from each point to the next; none for an outline that was not cut from a mesh.</summary>
    public int[] Triangles { get; init; } = [];

    public int Count => Points.Length / 3;

    public Vector3D Point(int i) => Vector3D.At(Points, i);

    /// <summary>mm.</summary>
    public double Length()
    {
        double sum = 0;
        for (var i = Closed ? 0 : 1; i < Count; i++)
        {
            sum += Vector3D.Distance(Point(i), Point((i + Count - 1) % Count));
        }

        return sum;
    }
}

/// <summary>
/// Exact plane cuts of a mesh. A vertex on the plane counts as lying just above it (simulation of simplicity, Edelsbrunner and Mücke
/// 1990): so every cut triangle is cut in exactly two edges, outlines of a closed surface are closed also through vertices, edges and
/// faces, and nothing is cut twice.
/// </summary>
public static class PlaneSection
{
    /// <summary>Cuts with one plane.</summary>
    /// <param name="normal">Need not be of length 1.</param>
    /// <param name="offset">The plane is normal·x = offset, with the normal at length 1; mm.</param>
    public static IReadOnlyList<SectionOutline> Cut(TriangleMesh mesh, Vector3D normal, double offset) => Cut(mesh, normal, [offset])[0];

    /// <summary>
    /// Cuts with many parallel planes in one pass over the triangles; the outlines of each plane in the order of the offsets.
    /// </summary>
    public static IReadOnlyList<SectionOutline>[] Cut(
        TriangleMesh mesh, Vector3D normal, IReadOnlyList<double> offsets, CancellationToken cancel = default)
    {
        var n = normal.Normalized();
        if (n.LengthSquared == 0)
        {
            throw new BadInputException("plane: the normal has no length.");
        }

        var order = Enumerable.Range(0, offsets.Count).OrderBy(i => offsets[i]).ToArray();
        var sorted = order.Select(i => offsets[i]).ToArray();
        var cut = Assign(mesh, Slabs(mesh, n, sorted), sorted.Length);
        var outlines = new IReadOnlyList<SectionOutline>[offsets.Count];
        var neighbours = mesh.Topology.Neighbours;
        Parallel.For(0, sorted.Length, new ParallelOptions { CancellationToken = cancel },
            k => outlines[order[k]] = new Chain(mesh, neighbours, n, sorted[k], cut[k]).Outlines());
        return outlines;
    }

    /// <summary>Cuts with planes through an axis, at angles (rad) about it from a direction; each gives both halves of its plane.</summary>
    public static IReadOnlyList<SectionOutline>[] Polar(
        TriangleMesh mesh, Vector3D point, Vector3D axis, Vector3D from, IReadOnlyList<double> angles, CancellationToken cancel = default)
    {
        var a = axis.Normalized();
        var start = (from - (from.Dot(a) * a)).Normalized();
        if (a.LengthSquared == 0 || start.LengthSquared == 0)
        {
            throw new BadInputException("axis: needs a length, and a start direction that does not lie along it.");
        }

        var outlines = new IReadOnlyList<SectionOutline>[angles.Count];
        for (var i = 0; i < angles.Count; i++)
        {
            cancel.ThrowIfCancellationRequested();
            var normal = RigidTransform.FromAxisAngle(a, angles[i] + (Math.PI / 2)).Rotate(start);
            outlines[i] = Cut(mesh, normal, normal.Dot(point));
        }

        return outlines;
    }

    /// <summary>
    /// How many of the planes lie below each vertex or pass through it: a triangle is cut by those between its lowest and its highest
    /// vertex.
    /// </summary>
    private static int[] Slabs(TriangleMesh mesh, Vector3D n, double[] sorted)
    {
        var slabs = GC.AllocateUninitializedArray<int>(mesh.VertexCount);
        Parallel.For(0, (slabs.Length + 65535) / 65536, chunk =>
        {
            for (var v = chunk * 65536; v < Math.Min(slabs.Length, (chunk + 1) * 65536); v++)
            {
                var height = mesh.Vertex(v).Dot(n);
                var (low, high) = (0, sorted.Length);
                while (low < high)
                {
                    var middle = (low + high) >> 1;
                    (low, high) = sorted[middle] <= height ? (middle + 1, high) : (low, middle);
                }

                slabs[v] = low;
            }
        });
        return slabs;
    }

    /// <summary>Which triangles each plane cuts, in ascending order.</summary>
    private static List<int>[] Assign(TriangleMesh mesh, int[] slabs, int planes)
    {
        var cut = new List<int>[planes];
        for (var k = 0; k < cut.Length; k++)
        {
            cut[k] = [];
        }

        var indices = mesh.Indices;
        for (var t = 0; t + 2 < indices.Length; t += 3)
        {
            int a = slabs[indices[t]], b = slabs[indices[t + 1]], c = slabs[indices[t + 2]];
            if (a == b && b == c)
            {
                continue;
            }

            var high = Math.Max(a, Math.Max(b, c));
            for (var k = Math.Min(a, Math.Min(b, c)); k < high; k++)
            {
                cut[k].Add(t / 3);
            }
        }

        return cut;
    }

    private sealed class Chain(TriangleMesh mesh, int[] neighbours, Vector3D normal, double offset, List<int> triangles)
    {
        private readonly Dictionary<int, bool> _done = triangles.ToDictionary(t => t, _ => false);

        public IReadOnlyList<SectionOutline> Outlines()
        {
            var outlines = new List<SectionOutline>();

            // Open ones first, from their beginnings; what is left goes round.
            foreach (var t in triangles)
            {
                if (!_done[t] && Across(Crossing(t, up: false), t) < 0)
                {
                    outlines.Add(Follow(t));
                }
            }

            foreach (var t in triangles)
            {
                if (!_done[t])
                {
                    outlines.Add(Follow(t));
                }
            }

            return [.. outlines.Where(o => o.Count > 1)];
        }

        private SectionOutline Follow(int start)
        {
            var points = new List<double>();
            var cut = new List<int>();
            var enter = Crossing(start, up: false);
            Add(points, enter);
            var (t, closed) = (start, false);
            while (true)
            {
                _done[t] = true;
                var leave = Other(t, enter);
                if (Add(points, leave))
                {
                    cut.Add(t);
                }

                var next = Across(leave, t);
                if (next < 0 || !_done.TryGetValue(next, out var done))
                {
                    break;
                }

                if (done)
                {
                    closed = next == start;
                    break;
                }

                enter = Matching(next, leave);
                t = next;
            }

            if (closed && points.Count >= 6 && Same(points, 0, points.Count - 3))
            {
                points.RemoveRange(points.Count - 3, 3);
            }

            return new([.. points], closed && points.Count >= 9) { Triangles = [.. cut] };
        }

        private double Height(int vertex) => mesh.Vertex(vertex).Dot(normal);

        private bool Above(int vertex) => Height(vertex) >= offset;

        /// <summary>The half-edge of a cut triangle that goes up through the plane, or down.</summary>
        private int Crossing(int t, bool up)
        {
            for (var h = 3 * t; h < (3 * t) + 3; h++)
            {
                var (from, to) = (Above(mesh.Indices[h]), Above(mesh.Indices[MeshTopology.Next(h)]));
                if (from != to && to == up)
                {
                    return h;
                }
            }

            throw new InvalidOperationException("The triangle is not cut.");
        }

        private int Other(int t, int enter)
        {
            var up = Crossing(t, up: true);
            return up == enter ? Crossing(t, up: false) : up;
        }

        /// <summary>The half-edge of the neighbour over the same edge; where senses agree it runs the other way.</summary>
        private int Matching(int t, int h)
        {
            var (a, b) = (mesh.Indices[h], mesh.Indices[MeshTopology.Next(h)]);
            foreach (var g in (int[])[Crossing(t, up: false), Crossing(t, up: true)])
            {
                var (c, d) = (mesh.Indices[g], mesh.Indices[MeshTopology.Next(g)]);
                if ((c == b && d == a) || (c == a && d == b))
                {
                    return g;
                }
            }

            return Crossing(t, up: false);
        }

        private int Across(int h, int t)
        {
            var n = neighbours[h];

            // Beyond an edge of more than two triangles only one of them is linked back.
            return n >= 0 && (neighbours[3 * n] == t || neighbours[(3 * n) + 1] == t || neighbours[(3 * n) + 2] == t) ? n : -1;
        }

        /// <summary>The cut of an edge, computed from its lower vertex number so that both its triangles get the same bits.</summary>
        /// <returns>False: it is the point before.</returns>
        private bool Add(List<double> points, int h)
        {
            var (a, b) = (mesh.Indices[h], mesh.Indices[MeshTopology.Next(h)]);
            (a, b) = (Math.Min(a, b), Math.Max(a, b));
            var f = (offset - Height(a)) / (Height(b) - Height(a));
            var p = f <= 0 ? mesh.Vertex(a) : f >= 1 ? mesh.Vertex(b) : mesh.Vertex(a) + (f * (mesh.Vertex(b) - mesh.Vertex(a)));
            if (points.Count >= 3 && points[^3] == p.X && points[^2] == p.Y && points[^1] == p.Z)
            {
                return false;
            }

            points.AddRange([p.X, p.Y, p.Z]);
            return true;
        }

        private static bool Same(List<double> points, int i, int j) =>
            points[i] == points[j] && points[i + 1] == points[j + 1] && points[i + 2] == points[j + 2];
    }
}

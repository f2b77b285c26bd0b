using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Segmentation;

/// <summary>
/// What speaks for a surface: how many corners lie on it and how closely, and how its region ends. Looks at one region after the other.
/// </summary>
internal sealed class RegionEvidence(TriangleMesh mesh, Vector3D[] normals, int[] label)
{
    private readonly int[] _neighbours = mesh.Topology.Neighbours;
    private readonly int[] _triangles = new int[mesh.TriangleCount];
    private readonly int[] _corners = new int[mesh.VertexCount];
    private readonly int[] _rims = new int[mesh.VertexCount];
    private readonly List<double> _beyond = [];
    private readonly HashSet<(int, int, int)> _facets = [];
    private int _stamp;

    /// <summary>Cosine of the largest angle across an edge that still counts as smooth.</summary>
    private static readonly double SmoothCosine = Math.Cos(40 * Math.PI / 180);

    /// <param name="Corners">Corners of the region, each once.</param>
    /// <param name="Facets">Directions that its triangles face, told apart by about 0.01.</param>
    /// <param name="HasInside">Whether a corner lies inside, all its triangles in the region.</param>
    /// <param name="GoesOn">Whether free triangles border smoothly on it.</param>
    /// <param name="FreeShare">Share of its border where they do: a fillet has it at its ends, a strip of a larger surface along its
    /// sides.</param>
    /// <param name="Departure">How far those triangles leave the surface, median, mm; infinite without any.</param>
    /// <param name="Scatter">Standard deviation of the corners off the surface, mm, with the degrees of freedom that its parameters
    /// leave.</param>
    public readonly record struct Evidence(
        int Corners, int Facets, bool HasInside, bool GoesOn, double FreeShare, double Departure, double Scatter);

    public bool IsSmooth(int from, int to) => normals[from].Dot(normals[to]) > SmoothCosine;

    /// <summary>How many numbers say where a surface is and how large.</summary>
    public static int Parameters(Shape shape) => shape switch { Plane3D => 3, Sphere3D => 4, Cylinder3D => 5, Cone3D => 6, _ => 7 };

    public Evidence Look(Shape shape, List<int> region)
    {
        _stamp++;
        _beyond.Clear();
        _facets.Clear();
        foreach (var t in region)
        {
            _triangles[t] = _stamp;
        }

        double free = 0, all = 0, squares = 0;
        int corners = 0, rims = 0;
        foreach (var t in region)
        {
            var n = normals[t];
            _facets.Add(((int)Math.Round(100 * n.X), (int)Math.Round(100 * n.Y), (int)Math.Round(100 * n.Z)));
            for (var h = 3 * t; h < (3 * t) + 3; h++)
            {
                var (v, next, other) = (mesh.Indices[h], mesh.Indices[MeshTopology.Next(h)], _neighbours[h]);
                if (_corners[v] != _stamp)
                {
                    _corners[v] = _stamp;
                    corners++;
                    var off = shape.Distance(mesh.Vertex(v));
                    squares += off * off;
                }

                if (other >= 0 && _triangles[other] == _stamp)
                {
                    continue;
                }

                rims += Mark(v) + Mark(next);
                var length = Vector3D.Distance(mesh.Vertex(v), mesh.Vertex(next));
                all += length;
                if (other >= 0 && label[other] < 0 && IsSmooth(t, other))
                {
                    free += length;
                    _beyond.Add(Off(shape, other));
                }
            }
        }

        _beyond.Sort();
        var departure = _beyond.Count > 0 ? _beyond[_beyond.Count / 2] : double.PositiveInfinity;
        return new(corners, _facets.Count, rims < corners, _beyond.Count > 0, all > 0 ? free / all : 0, departure,
            Math.Sqrt(squares / Math.Max(1, corners - Parameters(shape))));
    }

    /// <summary>How far a triangle's corners lie off a surface at most, mm.</summary>
    public double Off(Shape shape, int t)
    {
        var (a, b, c) = mesh.Triangle(t);
        return Math.Max(Math.Abs(shape.Distance(a)), Math.Max(Math.Abs(shape.Distance(b)), Math.Abs(shape.Distance(c))));
    }

    private int Mark(int v)
    {
        if (_rims[v] == _stamp)
        {
            return 0;
        }

        _rims[v] = _stamp;
        return 1;
    }
}

using Bostel.Core.Geometry;

namespace Bostel.Core.Preparation;

/// <summary>Gives a spanned hole triangles of the size of its surroundings (Liepa 2003, after Pfeifle and Seidel 1996).</summary>
internal sealed class PatchRefinement
{
    private const int MaxPasses = 40;
    private readonly List<Vector3D> _points;
    private readonly List<double> _scale;
    private readonly List<(int A, int B, int C)> _triangles;
    private readonly Dictionary<(int, int), (int First, int Second)> _edges = [];

    private PatchRefinement(List<Vector3D> points, List<double> scale, List<(int, int, int)> triangles)
    {
        (_points, _scale, _triangles) = (points, scale, triangles);
        for (var t = 0; t < triangles.Count; t++)
        {
            Link(t);
        }
    }

    /// <summary>
    /// Splits triangles larger than the lengths at the border call for and flips edges toward the Delaunay condition, until neither
    /// changes.
    /// </summary>
    /// <param name="points">Loop points first; new points are appended.</param>
    /// <param name="scale">Mean edge length around each point in the mesh outside; extended with the new points.</param>
    /// <param name="triangles">Index triples; replaced in place.</param>
    /// <param name="mostPoints">No more points than this are made.</param>
    public static void Refine(List<Vector3D> points, List<double> scale, List<(int A, int B, int C)> triangles, int mostPoints)
    {
        var patch = new PatchRefinement(points, scale, triangles);
        patch.Relax();
        for (var pass = 0; pass < MaxPasses && patch.Split(mostPoints); pass++)
        {
            patch.Relax();
        }
    }

    private bool Split(int mostPoints)
    {
        var before = _triangles.Count;
        for (var t = 0; t < before && _points.Count < mostPoints; t++)
        {
            var (a, b, c) = _triangles[t];
            var center = (_points[a] + _points[b] + _points[c]) / 3;
            var size = (_scale[a] + _scale[b] + _scale[c]) / 3;
            bool Wide(int v)
            {
                var reach = Math.Sqrt(2) * Vector3D.Distance(center, _points[v]);
                return reach > size && reach > _scale[v];
            }

            if (Wide(a) && Wide(b) && Wide(c))
            {
                var m = _points.Count;
                _points.Add(center);
                _scale.Add(size);
                Unlink(t);
                _triangles[t] = (a, b, m);
                _triangles.Add((b, c, m));
                _triangles.Add((c, a, m));
                Link(t);
                Link(_triangles.Count - 2);
                Link(_triangles.Count - 1);
            }
        }

        return _triangles.Count > before;
    }

    /// <summary>Flips inner edges whose opposite angles sum to more than 180°, a few sweeps at most.</summary>
    private void Relax()
    {
        for (var sweep = 0; sweep < 10; sweep++)
        {
            var flipped = false;
            foreach (var edge in _edges.Keys.OrderBy(e => e).ToList())
            {
                flipped |= _edges.TryGetValue(edge, out var sides) && sides.Second >= 0
                    && Flip(edge.Item1, edge.Item2, sides.First, sides.Second);
            }

            if (!flipped)
            {
                return;
            }
        }
    }

    private bool Flip(int a, int b, int s, int t)
    {
        if (!Directed(s, a, b))
        {
            (s, t) = (t, s);
        }

        var c = Apex(s, a, b);
        var d = Apex(t, a, b);
        if (c == d || _edges.ContainsKey(Key(c, d)) || AngleAt(c, a, b) + AngleAt(d, a, b) <= Math.PI + 1e-9)
        {
            return false;
        }

        // On a bent patch a flip must not turn a triangle over.
        Vector3D N(int x, int y, int z) => (_points[y] - _points[x]).Cross(_points[z] - _points[x]);
        var mean = N(a, b, c) + N(b, a, d);
        if (N(c, d, b).Dot(mean) <= 0 || N(d, c, a).Dot(mean) <= 0)
        {
            return false;
        }

        Unlink(s);
        Unlink(t);
        _triangles[s] = (c, d, b);
        _triangles[t] = (d, c, a);
        Link(s);
        Link(t);
        return true;
    }

    private double AngleAt(int at, int a, int b) => Meshes.MeshNormals.CornerAngle(_points[at], _points[a], _points[b]);

    private bool Directed(int t, int a, int b)
    {
        var (x, y, z) = _triangles[t];
        return (x == a && y == b) || (y == a && z == b) || (z == a && x == b);
    }

    private int Apex(int t, int a, int b)
    {
        var (x, y, z) = _triangles[t];
        return x != a && x != b ? x : y != a && y != b ? y : z;
    }

    private static (int, int) Key(int a, int b) => a < b ? (a, b) : (b, a);

    private void Link(int t)
    {
        var (a, b, c) = _triangles[t];
        foreach (var key in ((int, int)[])[Key(a, b), Key(b, c), Key(c, a)])
        {
            _edges[key] = _edges.TryGetValue(key, out var sides) ? (sides.First, t) : (t, -1);
        }
    }

    private void Unlink(int t)
    {
        var (a, b, c) = _triangles[t];
        foreach (var key in ((int, int)[])[Key(a, b), Key(b, c), Key(c, a)])
        {
            var (first, second) = _edges[key];
            if (second < 0)
            {
                _edges.Remove(key);
            }
            else
            {
                _edges[key] = (first == t ? second : first, -1);
            }
        }
    }
}

using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Preparation;

/// <summary>
/// Edge collapse by quadric error (Garland and Heckbert 1997): cheapest edge first, the new point where the error is least. Borders are
/// held by planes upright on them, collapses that would fold a triangle over or pinch the surface are refused, and patches never mix with
/// measured vertices.
/// </summary>
internal sealed class EdgeCollapse
{
    private const double BorderWeight = 100;
    private const int None = -1;
    private readonly TriangleMesh _mesh;
    private readonly Vector3D[] _points;
    private readonly int[] _indices;
    private readonly Quadric[] _quadrics;
    private readonly Vector3D _origin;

    // The corners around a vertex as a linked list, so that two vertices merge by joining their lists.
    private readonly int[] _first;
    private readonly int[] _last;
    private readonly int[] _next;
    private readonly int[] _stamps;
    private readonly int[] _marks;
    private readonly bool[] _dead;
    private readonly EdgeQueue _queue = new();
    private int _mark;
    private int _live;

    public EdgeCollapse(TriangleMesh mesh)
    {
        _mesh = mesh;
        _origin = mesh.Bounds.Center;
        _points = new Vector3D[mesh.VertexCount];
        for (var v = 0; v < _points.Length; v++)
        {
            _points[v] = mesh.Vertex(v) - _origin;
        }

        _indices = (int[])mesh.Indices.Clone();
        _quadrics = new Quadric[_points.Length];
        _first = new int[_points.Length];
        _last = new int[_points.Length];
        Array.Fill(_first, None);
        _next = new int[_indices.Length];
        _stamps = new int[_points.Length];
        _marks = new int[_points.Length];
        _dead = new bool[mesh.TriangleCount];
        _live = mesh.TriangleCount;
        for (var h = 0; h < _indices.Length; h++)
        {
            var v = _indices[h];
            _next[h] = None;
            if (_first[v] == None)
            {
                _first[v] = h;
            }
            else
            {
                _next[_last[v]] = h;
            }

            _last[v] = h;
        }
    }

    /// <param name="triangles">Stop when no more than this remain.</param>
    /// <param name="worst">Stop when the cheapest collapse costs more than this mean squared distance, mm².</param>
    public TriangleMesh Run(int triangles, double worst, CancellationToken cancel)
    {
        Prepare();
        for (var n = 0; _live > triangles && _queue.TryPop(out var edge); n++)
        {
            if ((n & 0xFFFF) == 0)
            {
                cancel.ThrowIfCancellationRequested();
            }

            if (edge.Stamp == _stamps[edge.A] + _stamps[edge.B] && Best(edge.A, edge.B, out var at) <= worst && Allowed(edge.A, edge.B, at))
            {
                Collapse(edge.A, edge.B, at);
            }
        }

        return Compact();
    }

    private void Prepare()
    {
        var neighbours = _mesh.Topology.Neighbours;
        for (var t = 0; t < _dead.Length; t++)
        {
            var (a, b, c) = (_points[_indices[3 * t]], _points[_indices[(3 * t) + 1]], _points[_indices[(3 * t) + 2]]);
            var cross = (b - a).Cross(c - a);
            var normal = cross.Normalized();
            var plane = Quadric.Plane(normal, a, cross.Length / 6);
            for (var h = 3 * t; h < (3 * t) + 3; h++)
            {
                _quadrics[_indices[h]].Add(plane);
                if (neighbours[h] < 0)
                {
                    var (p, q) = (_points[_indices[h]], _points[_indices[MeshTopology.Next(h)]]);
                    var upright = (q - p).Cross(normal).Normalized();
                    var border = Quadric.Plane(upright, p, BorderWeight * (q - p).LengthSquared / 6);
                    _quadrics[_indices[h]].Add(border);
                    _quadrics[_indices[MeshTopology.Next(h)]].Add(border);
                }
            }
        }

        for (var h = 0; h < _indices.Length; h++)
        {
            if (neighbours[h] < h / 3)
            {
                Push(_indices[h], _indices[MeshTopology.Next(h)]);
            }
        }
    }

    private void Push(int a, int b)
    {
        // Patches and measured vertices do not mix.
        if (a >= _mesh.MeasuredVertexCount == b >= _mesh.MeasuredVertexCount)
        {
            _queue.Push(Math.Max(0, Best(a, b, out _)), new(a, b, _stamps[a] + _stamps[b]));
        }
    }

    /// <summary>
    /// The mean squared distance to the planes of both ends at the best point, with a little for length so that flat areas stay even.
    /// </summary>
    private double Best(int a, int b, out Vector3D at)
    {
        var sum = _quadrics[a];
        sum.Add(_quadrics[b]);
        at = sum.Least(0.5 * (_points[a] + _points[b]));
        return (Math.Max(0, sum.At(at)) / sum.Weight) + (1e-7 * (_points[a] - _points[b]).LengthSquared);
    }

    private bool Allowed(int a, int b, Vector3D at)
    {
        // Link condition (Dey et al. 1999): both ends share exactly the apexes of the triangles at the edge.
        _mark += 2;
        var apexes = 0;
        for (var h = _first[a]; h != None; h = _next[h])
        {
            if (!_dead[h / 3])
            {
                var (p, q) = Others(h);
                _marks[p] = _mark;
                _marks[q] = _mark;
                apexes += p == b || q == b ? 1 : 0;
            }
        }

        var shared = 0;
        for (var h = _first[b]; h != None; h = _next[h])
        {
            if (!_dead[h / 3])
            {
                var (p, q) = Others(h);
                shared += Take(p) + Take(q);
            }
        }

        return shared == apexes && apexes is 1 or 2 && Upright(a, b, at) && Upright(b, a, at);
    }

    private int Take(int v)
    {
        if (_marks[v] != _mark)
        {
            return 0;
        }

        _marks[v] = _mark + 1;
        return 1;
    }

    /// <summary>No triangle around a vertex turns by more than about 75° or loses its area when the vertex moves.</summary>
    private bool Upright(int moved, int other, Vector3D at)
    {
        for (var h = _first[moved]; h != None; h = _next[h])
        {
            if (_dead[h / 3])
            {
                continue;
            }

            var (p, q) = Others(h);
            if (p == other || q == other)
            {
                continue;
            }

            var before = (_points[p] - _points[moved]).Cross(_points[q] - _points[moved]);
            var (u, v) = (_points[p] - at, _points[q] - at);
            var after = u.Cross(v);
            var size = after.Length;
            if (before.Dot(after) < 0.25 * before.Length * size
                || size < 0.02 * Math.Max((_points[p] - _points[q]).LengthSquared, Math.Max(u.LengthSquared, v.LengthSquared)))
            {
                return false;
            }
        }

        return true;
    }

    private (int, int) Others(int corner)
    {
        var next = MeshTopology.Next(corner);
        return (_indices[next], _indices[MeshTopology.Next(next)]);
    }

    private void Collapse(int a, int b, Vector3D at)
    {
        // The lower number survives: it keeps the order of the vertices.
        (a, b) = (Math.Min(a, b), Math.Max(a, b));
        _points[a] = at;
        _quadrics[a].Add(_quadrics[b]);
        for (var h = _first[b]; h != None; h = _next[h])
        {
            if (!_dead[h / 3])
            {
                var (p, q) = Others(h);
                if (p == a || q == a)
                {
                    _dead[h / 3] = true;
                    _live--;
                }
                else
                {
                    _indices[h] = a;
                }
            }
        }

        _next[_last[a]] = _first[b];
        _last[a] = _last[b];
        _first[b] = None;
        _stamps[a]++;
        _stamps[b] = int.MinValue / 2;
        Unlink(a);
        for (var h = _first[a]; h != None; h = _next[h])
        {
            var (p, q) = Others(h);
            Push(a, p);

            // Each inner neighbour is the first of one triangle; only at a border is the second needed too.
            if (!LeadsATriangle(a, q))
            {
                Push(a, q);
            }
        }
    }

    private bool LeadsATriangle(int a, int q)
    {
        for (var h = _first[a]; h != None; h = _next[h])
        {
            if (_indices[MeshTopology.Next(h)] == q)
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>Takes dead corners out of the list of a vertex.</summary>
    private void Unlink(int a)
    {
        while (_first[a] != None && _dead[_first[a] / 3])
        {
            _first[a] = _next[_first[a]];
        }

        var last = _first[a];
        for (var h = _first[a]; h != None; h = _next[h])
        {
            while (_next[h] != None && _dead[_next[h] / 3])
            {
                _next[h] = _next[_next[h]];
            }

            last = h;
        }

        _last[a] = last;
    }

    private TriangleMesh Compact()
    {
        var coordinates = new double[3 * _points.Length];
        for (var v = 0; v < _points.Length; v++)
        {
            var p = _points[v] + _origin;
            (coordinates[3 * v], coordinates[(3 * v) + 1], coordinates[(3 * v) + 2]) = (p.X, p.Y, p.Z);
        }

        return new TriangleMesh(coordinates, _indices, _mesh.MeasuredVertexCount, _mesh.MeasuredTriangleCount)
            .KeepTriangles(t => !_dead[t]);
    }
}

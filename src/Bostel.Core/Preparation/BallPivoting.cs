using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Preparation;

/// <summary>
/// Meshes a cloud by rolling a ball over it (Bernardini et al. 1999): three points make a triangle when a ball of the given radius rests on
/// them with no other point inside. Every vertex is a measured point, none is moved, and where points are farther apart than the ball is
/// wide a hole stays open.
/// </summary>
public sealed class BallPivoting
{
    private const double Inside = 1e-9;
    private readonly TriangleMesh _cloud;
    private readonly Vector3D[] _normals;
    private readonly PointTree _tree;
    private readonly double _radius;
    private readonly List<int> _indices = [];

    // Half-edges of the mesh so far: which are there, and which wait to be rolled over.
    private readonly Dictionary<(int, int), int> _apex = [];
    private readonly Queue<(int From, int To, Vector3D Center)> _front = new();
    private readonly bool[] _used;
    private readonly List<int> _near = [];

    private BallPivoting(TriangleMesh cloud, Vector3D[] normals, double radius)
    {
        (_cloud, _normals, _radius) = (cloud, normals, radius);
        _tree = new(cloud.Coordinates);
        _used = new bool[cloud.VertexCount];
    }

    /// <param name="cloud">Points, mm.</param>
    /// <param name="normals">One a point, with a consistent sense.</param>
    /// <param name="radius">Of the ball, mm; from the spacing when null (1.3 times the larger of median and even spacing).</param>
    /// <exception cref="BadInputException">No ball rests anywhere: the points are too sparse or the radius too small.</exception>
    public static TriangleMesh Mesh(TriangleMesh cloud, Vector3D[] normals, double? radius, CancellationToken cancel = default)
    {
        var ball = radius ?? 1.6 * PointSpacing.Median(cloud.Coordinates, new(cloud.Coordinates));
        if (!(ball > 0))
        {
            throw new BadInputException("radius: must be above 0 mm.");
        }

        var pivoting = new BallPivoting(cloud, normals, ball);
        pivoting.Run(cancel);
        return pivoting._indices.Count == 0
            ? throw new BadInputException($"No ball of {ball:0.###} mm rests on the points: they are too sparse; choose a larger radius.")
            : new TriangleMesh(cloud.Coordinates, [.. pivoting._indices]).KeepTriangles(_ => true);
    }

    private void Run(CancellationToken cancel)
    {
        for (var seed = 0; seed < _used.Length; seed++)
        {
            if (!_used[seed] && Seed(seed))
            {
                Roll(cancel);
            }
        }
    }

    private bool Seed(int a)
    {
        _tree.Within(_cloud.Vertex(a), 2 * _radius, _near);
        var near = _near.Where(n => n != a && !_used[n]).OrderBy(n => (_cloud.Vertex(n) - _cloud.Vertex(a)).LengthSquared).Take(16)
            .ToArray();
        for (var i = 0; i < near.Length; i++)
        {
            for (var j = 0; j < near.Length; j++)
            {
                if (i != j && Rest(a, near[i], near[j]) is { } center && IsEmpty(center, a, near[i], near[j]))
                {
                    Add(a, near[i], near[j], center);
                    return true;
                }
            }
        }

        return false;
    }

    private void Roll(CancellationToken cancel)
    {
        for (var n = 0; _front.TryDequeue(out var edge); n++)
        {
            if ((n & 0xFFF) == 0)
            {
                cancel.ThrowIfCancellationRequested();
            }

            if (!_apex.ContainsKey((edge.To, edge.From)) && Pivot(edge) is var (apex, center) && apex >= 0
                && Fits(edge.To, edge.From, apex))
            {
                Add(edge.To, edge.From, apex, center);
            }
        }
    }

    /// <summary>The first point the ball touches when it rolls about an edge, away from the triangle it lies on.</summary>
    private (int Apex, Vector3D Center) Pivot((int From, int To, Vector3D Center) edge)
    {
        var (p, q) = (_cloud.Vertex(edge.From), _cloud.Vertex(edge.To));
        var middle = 0.5 * (p + q);
        var axis = (q - p).Normalized();
        var start = (edge.Center - middle).Normalized();
        var across = axis.Cross(start);
        _tree.Within(middle, 2 * _radius, _near);
        var best = (Apex: -1, Center: Vector3D.Zero);
        var least = double.PositiveInfinity;
        foreach (var candidate in _near)
        {
            if (candidate == edge.From || candidate == edge.To || _apex.GetValueOrDefault((edge.From, edge.To), -1) == candidate)
            {
                continue;
            }

            if (Rest(edge.To, edge.From, candidate) is { } center)
            {
                var d = center - middle;
                var angle = Math.Atan2(d.Dot(across), d.Dot(start));
                angle = angle < -1e-9 ? angle + (2 * Math.PI) : Math.Max(0, angle);
                if (angle < least)
                {
                    (least, best) = (angle, (candidate, center));
                }
            }
        }

        return best.Apex >= 0 && IsEmpty(best.Center, edge.From, edge.To, best.Apex) ? best : (-1, default);
    }

    /// <summary>A half-edge may be used once: else three triangles would meet at an edge.</summary>
    private bool Fits(int a, int b, int c) => !_apex.ContainsKey((a, b)) && !_apex.ContainsKey((b, c)) && !_apex.ContainsKey((c, a));

    private void Add(int a, int b, int c, Vector3D center)
    {
        _indices.AddRange([a, b, c]);
        foreach (var (from, to, apex) in ((int, int, int)[])[(a, b, c), (b, c, a), (c, a, b)])
        {
            _used[from] = true;
            _apex[(from, to)] = apex;
            if (!_apex.ContainsKey((to, from)))
            {
                _front.Enqueue((from, to, center));
            }
        }
    }

    /// <summary>
    /// The centre of the ball that rests on three points on the side of their normals; null when it does not fit or the normals disagree.
    /// </summary>
    private Vector3D? Rest(int a, int b, int c)
    {
        var (p, q, r) = (_cloud.Vertex(a), _cloud.Vertex(b), _cloud.Vertex(c));
        var (u, v) = (q - p, r - p);
        var cross = u.Cross(v);
        var square = cross.LengthSquared;
        if (square < 1e-12 * u.LengthSquared * v.LengthSquared)
        {
            return null;
        }

        var normal = cross / Math.Sqrt(square);
        if (normal.Dot(_normals[a]) <= 0 || normal.Dot(_normals[b]) <= 0 || normal.Dot(_normals[c]) <= 0)
        {
            return null;
        }

        var toCenter = ((u.LengthSquared * v.Cross(cross)) + (v.LengthSquared * cross.Cross(u))) / (2 * square);
        var height = (_radius * _radius) - toCenter.LengthSquared;
        return height < 0 ? null : p + toCenter + (Math.Sqrt(height) * normal);
    }

    private bool IsEmpty(Vector3D center, int a, int b, int c)
    {
        var near = new List<int>();
        _tree.Within(center, _radius * (1 - Inside), near);
        return near.TrueForAll(n => n == a || n == b || n == c);
    }
}

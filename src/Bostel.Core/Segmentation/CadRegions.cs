using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Segmentation;

/// <summary>The triangles of a CAD mesh as they are given to surfaces, one region after the other.</summary>
internal sealed class CadRegions
{
    /// <summary>
    /// Triangles from which surfaces are proposed. Corners are exact: a few determine a surface, and few triangles seldom reach over its border; more are
    /// needed where the triangles are small.
    /// </summary>
    private static readonly int[] Neighbourhoods = [6, 16, 60, 240];
    private const int Usual = 3;

    /// <summary>Triangles that count as tried with a seed that led nowhere, in the first pass.</summary>
    private const int TriedTogether = 12;
    private const int Rings = 3;
    private const int MostRefits = 8;
    private const double SmoothAngle = 40 * Math.PI / 180;

    /// <summary>Corners just outside a surface that really ends lie off it by more than this many tolerances.</summary>
    private const double Abrupt = 10;

    private readonly TriangleMesh _mesh;
    private readonly int[] _neighbours;
    private readonly Vector3D[] _normals;
    private readonly ExactShapes _shapes;
    private readonly MeshFlood _flood;
    private readonly double _tolerance;
    private readonly bool[] _tried;
    private readonly List<int> _claimed = [];

    /// <param name="tolerance">How far a corner may lie off its surface, mm.</param>
    public CadRegions(TriangleMesh mesh, double tolerance)
    {
        _mesh = mesh;
        _tolerance = tolerance;
        _neighbours = mesh.Topology.Neighbours;
        _normals = new Vector3D[mesh.TriangleCount];
        for (var t = 0; t < _normals.Length; t++)
        {
            var (a, b, c) = mesh.Triangle(t);
            _normals[t] = (b - a).Cross(c - a).Normalized();
        }

        _shapes = new(mesh, _normals);
        _flood = new(mesh);
        Label = new int[mesh.TriangleCount];
        Array.Fill(Label, -1);
        _tried = new bool[mesh.TriangleCount];
    }

    /// <summary>Region of each triangle, −1 while it has none.</summary>
    public int[] Label { get; }

    /// <summary>Surface of each region; null for freeform.</summary>
    public List<Shape?> Shapes { get; } = [];

    /// <summary>Gives the largest surface through a free seed its triangles.</summary>
    /// <param name="pass">In the first, a seed that led nowhere stands for those around it; from then on each is tried, and tori too. What is doubtful waits longer.</param>
    /// <param name="lenient">Whether a plane of several triangles counts however large the facets around it are.</param>
    public void Claim(int seed, int pass, bool lenient)
    {
        var thorough = pass > 0;
        if (Label[seed] >= 0 || _tried[seed])
        {
            return;
        }

        var scales = thorough ? Neighbourhoods.Length : Usual;
        var near = Smooth(seed, Neighbourhoods[scales - 1]);
        var plane = Region(_shapes.PlaneAt(seed), seed);
        var best = plane is { } flat && !IsFacet(flat.Triangles, flat.Area, near.Count, lenient) ? plane : null;
        for (var k = 0; k < scales && best is null && (k == 0 || near.Count > Neighbourhoods[k - 1]); k++)
        {
            best = Curved(seed, near, Neighbourhoods[k], tori: k >= (thorough ? 1 : Usual - 1), (plane?.Area ?? 0) * 1.2);
        }

        // A single row of facets in a smooth surroundings may be a strip of something larger: that is tried first, once all that is sure is known.
        if (best is { Shape: not Plane3D } strip && !HasInside(strip.Triangles) && HasSmoothBeyond(strip.Triangles))
        {
            if (pass < (FreeBorder(strip.Triangles) < 0.5 ? 1 : 2))
            {
                return;
            }

            best = Curved(seed, near, near.Count, tori: true, 1.2 * strip.Area) ?? best;
        }

        if (best is not { } found)
        {
            foreach (var t in thorough ? [seed] : near.Take(TriedTogether))
            {
                _tried[t] = true;
            }

            return;
        }

        foreach (var t in found.Triangles)
        {
            Label[t] = Shapes.Count;
            _claimed.Add(t);
        }

        Shapes.Add(found.Shape);
    }

    /// <summary>The largest region of a curved surface; of those nearly as large the one whose facets lean least.</summary>
    private (Shape Shape, List<int> Triangles, double Area)? Curved(int seed, List<int> near, int count, bool tori, double least)
    {
        var regions = new List<(Shape Shape, List<int> Triangles, double Area)>();
        foreach (var shape in _shapes.Curved(near, count, tori))
        {
            if (Region(shape, seed) is { } region && region.Area > least)
            {
                regions.Add(region);
            }
        }

        // Two rows of corners on circles lie on a cylinder or cone, but also on a sphere: there the facets tell.
        var largest = regions.Select(r => r.Area).DefaultIfEmpty(0).Max();
        return regions.Count == 0 ? null : regions.Where(r => r.Area > largest / 1.2).MinBy(r => Math.Round(Lean(r.Shape, r.Triangles), 3));
    }

    /// <summary>Mean angle of facets from the surface's normal at their middle, rad.</summary>
    private double Lean(Shape shape, List<int> region) => region.Average(t =>
    {
        var (a, b, c) = _mesh.Triangle(t);
        return NominalFaceBuilder.Gradient(shape, (a + b + c) / 3).LineAngleTo(_normals[t]);
    });

    /// <summary>
    /// Larger regions take over what lies on their surface from smaller ones: strips that were given away before the surface was known. Regions that lose all
    /// are dropped.
    /// </summary>
    public void Absorb()
    {
        var areas = new double[Shapes.Count];
        for (var t = 0; t < Label.Length; t++)
        {
            areas[Label[t]] += _mesh.TriangleArea(t);
        }

        var first = new int[Shapes.Count];
        for (var t = Label.Length - 1; t >= 0; t--)
        {
            first[Label[t]] = t;
        }

        foreach (var region in Enumerable.Range(0, Shapes.Count).Where(r => Shapes[r] is not null).OrderByDescending(r => areas[r]).ThenBy(r => r))
        {
            var shape = Shapes[region]!;
            if (Label[first[region]] != region)
            {
                continue;
            }

            var all = _flood.Spread(first[region], int.MaxValue, (from, to) => Label[to] == region || (
                (Shapes[Label[to]] is null || areas[Label[to]] < areas[region]) && (shape is Plane3D || _normals[to].AngleTo(_normals[from]) < SmoothAngle) && Fits(shape, to)));
            foreach (var t in all)
            {
                Label[t] = region;
            }
        }

        var kept = Label.Distinct().Order().ToList();
        var map = kept.Select((old, now) => (old, now)).ToDictionary(p => p.old, p => p.now);
        for (var t = 0; t < Label.Length; t++)
        {
            Label[t] = map[Label[t]];
        }

        var shapes = kept.Select(k => Shapes[k]).ToList();
        Shapes.Clear();
        Shapes.AddRange(shapes);
    }

    /// <summary>Free triangles within some rings of those claimed since the last call (or ever) are worth another try.</summary>
    public void RetryBesideClaimed(bool all)
    {
        List<int> now = all ? [.. Enumerable.Range(0, Label.Length).Where(t => Label[t] >= 0)] : [.. _claimed];
        _claimed.Clear();
        var reached = Label.Select(l => l >= 0).ToArray();
        for (var ring = 0; ring < Rings; ring++)
        {
            var next = new List<int>();
            foreach (var t in now)
            {
                foreach (var n in _neighbours.AsSpan(3 * t, 3))
                {
                    if (n >= 0 && !reached[n])
                    {
                        reached[n] = true;
                        _tried[n] = false;
                        next.Add(n);
                    }
                }
            }

            now = next;
        }
    }

    public void GroupFreeform()
    {
        for (var seed = 0; seed < Label.Length; seed++)
        {
            if (Label[seed] < 0)
            {
                foreach (var t in Smooth(seed, int.MaxValue))
                {
                    Label[t] = Shapes.Count;
                }

                Shapes.Add(null);
            }
        }
    }

    /// <summary>Borders of the mesh, and edges between regions that turn by more than 0.2 rad.</summary>
    public List<NominalEdge> Edges()
    {
        var edges = new List<NominalEdge>();
        for (var h = 0; h < _neighbours.Length; h++)
        {
            var (t, other) = (h / 3, _neighbours[h]);
            if (other < 0 || (other > t && Label[other] != Label[t] && _normals[t].AngleTo(_normals[other]) > 0.2))
            {
                var (a, b) = (_mesh.Vertex(_mesh.Indices[h]), _mesh.Vertex(_mesh.Indices[MeshTopology.Next(h)]));
                edges.Add(new([a.X, a.Y, a.Z, b.X, b.Y, b.Z], other < 0 ? [Label[t]] : [Label[t], Label[other]]));
            }
        }

        return edges;
    }

    /// <summary>Free triangles reached from the seed across smooth edges, breadth first.</summary>
    private List<int> Smooth(int seed, int most) => [.. _flood.Spread(seed, most, IsSmooth)];

    private bool IsSmooth(int from, int to) => Label[to] < 0 && _normals[to].AngleTo(_normals[from]) < SmoothAngle;

    /// <summary>The region of a surface through a seed, the surface fitted anew while it grows; null when it is no surface of the part.</summary>
    private (Shape Shape, List<int> Triangles, double Area)? Region(Shape shape, int seed)
    {
        if (!Fits(shape, seed))
        {
            return null;
        }

        var region = Grow(shape, seed);
        for (var round = 0; round < MostRefits && region.Count >= 4; round++)
        {
            if (_shapes.Refit(shape, region) is not { } better || !Fits(better, seed))
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

        return IsDetermined(shape, region) && EndsAbruptly(shape, region) ? (shape, region, region.Sum(_mesh.TriangleArea)) : null;
    }

    private List<int> Grow(Shape shape, int seed) => [.. _flood.Spread(seed, int.MaxValue, (from, to) =>
        Label[to] < 0 && (shape is Plane3D || _normals[to].AngleTo(_normals[from]) < SmoothAngle) && Fits(shape, to))];

    private bool Fits(Shape shape, int t)
    {
        var (a, b, c) = _mesh.Triangle(t);
        if (Math.Abs(shape.Distance(a)) > _tolerance || Math.Abs(shape.Distance(b)) > _tolerance || Math.Abs(shape.Distance(c)) > _tolerance)
        {
            return false;
        }

        var along = Math.Abs(NominalFaceBuilder.Gradient(shape, (a + b + c) / 3).Dot(_normals[t]));
        return along > (shape is Plane3D ? 0.9998 : 0.8);
    }

    /// <summary>Three facets and some corners more than the surface has parameters: fewer lie on many surfaces.</summary>
    private bool IsDetermined(Shape shape, List<int> region)
    {
        if (shape is Plane3D)
        {
            return true;
        }

        // Two rows of corners always lie on a sphere, and near many a torus.
        if (shape is Sphere3D or Torus3D && !HasInside(region))
        {
            return false;
        }

        // Where more may follow beyond its border, a few facets may be a piece of anything.
        var sure = !HasSmoothBeyond(region);
        var (least, facets) = (shape is Torus3D ? 16 : sure ? 8 : 12, sure ? 3 : 5);
        var corners = new HashSet<int>();
        var turned = new HashSet<(double, double, double)>();
        foreach (var t in region)
        {
            corners.UnionWith([_mesh.Indices[3 * t], _mesh.Indices[(3 * t) + 1], _mesh.Indices[(3 * t) + 2]]);
            turned.Add((Math.Round(_normals[t].X, 2), Math.Round(_normals[t].Y, 2), Math.Round(_normals[t].Z, 2)));
            if (corners.Count >= least && turned.Count >= facets)
            {
                return true;
            }
        }

        return false;
    }

    /// <summary>Whether a corner of the region lies inside it, all its triangles in the region.</summary>
    private bool HasInside(List<int> region)
    {
        var inside = region.ToHashSet();
        var rim = new HashSet<int>();
        foreach (var t in region)
        {
            for (var h = 3 * t; h < (3 * t) + 3; h++)
            {
                if (_neighbours[h] < 0 || !inside.Contains(_neighbours[h]))
                {
                    rim.UnionWith([_mesh.Indices[h], _mesh.Indices[MeshTopology.Next(h)]]);
                }
            }
        }

        return region.Any(t => !rim.Contains(_mesh.Indices[3 * t]) || !rim.Contains(_mesh.Indices[(3 * t) + 1]) || !rim.Contains(_mesh.Indices[(3 * t) + 2]));
    }

    /// <summary>Share of the border beyond which a free surface goes on smoothly: a fillet has it at its ends, a strip of a larger surface along its sides.</summary>
    private double FreeBorder(List<int> region)
    {
        var inside = region.ToHashSet();
        double free = 0, all = 0;
        foreach (var t in region)
        {
            for (var h = 3 * t; h < (3 * t) + 3; h++)
            {
                var n = _neighbours[h];
                if (n < 0 || !inside.Contains(n))
                {
                    var length = Vector3D.Distance(_mesh.Vertex(_mesh.Indices[h]), _mesh.Vertex(_mesh.Indices[MeshTopology.Next(h)]));
                    all += length;
                    free += n >= 0 && IsSmooth(t, n) ? length : 0;
                }
            }
        }

        return free / all;
    }

    private bool HasSmoothBeyond(List<int> region)
    {
        var inside = region.ToHashSet();
        return region.Any(t => Enumerable.Range(3 * t, 3).Any(h => _neighbours[h] is var n and >= 0 && !inside.Contains(n) && IsSmooth(t, n)));
    }

    /// <summary>Whether most corners of the free triangles smoothly beyond the border lie clearly off the surface.</summary>
    private bool EndsAbruptly(Shape shape, List<int> region)
    {
        var inside = region.ToHashSet();
        var beyond = new List<double>();
        foreach (var t in region)
        {
            foreach (var n in _neighbours.AsSpan(3 * t, 3))
            {
                if (n >= 0 && !inside.Contains(n) && IsSmooth(t, n))
                {
                    var (a, b, c) = _mesh.Triangle(n);
                    beyond.Add(Math.Max(Math.Abs(shape.Distance(a)), Math.Max(Math.Abs(shape.Distance(b)), Math.Abs(shape.Distance(c)))));
                }
            }
        }

        beyond.Sort();
        return beyond.Count == 0 || beyond[beyond.Count / 2] > Abrupt * _tolerance;
    }

    /// <summary>A lone facet inside a smooth surface is not a plane of the part, unless it is far larger than the facets around it.</summary>
    private bool IsFacet(List<int> region, double area, int near, bool lenient)
    {
        if (region.Count > 2 ? lenient || HasInside(region) : near <= region.Count + 2)
        {
            return false;
        }

        var around = 0.0;
        foreach (var t in region)
        {
            foreach (var n in _neighbours.AsSpan(3 * t, 3))
            {
                around = n >= 0 && !region.Contains(n) && IsSmooth(t, n) ? Math.Max(around, _mesh.TriangleArea(n)) : around;
            }
        }

        return area < 4 * region.Count * around;
    }
}

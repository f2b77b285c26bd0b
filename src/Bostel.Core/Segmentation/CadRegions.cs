using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;

namespace Bostel.Core.Segmentation;

/// <summary>The triangles of a CAD mesh as they are given to surfaces, one region after the other.</summary>
internal sealed class CadRegions
{
    /// <summary>
    /// Triangles from which surfaces are proposed. Corners are exact: a few determine a surface, and few triangles seldom reach over its
    /// border; more are needed where the triangles are small.
    /// </summary>
    private static readonly int[] Neighbourhoods = [6, 16, 60, 240];
    private const int Usual = 3;

    /// <summary>Triangles that count as tried with a seed that led nowhere, in the first pass.</summary>
    private const int TriedTogether = 12;
    private const int Rings = 3;
    private const int MostDoubtful = 150;

    private readonly TriangleMesh _mesh;
    private readonly int[] _neighbours;
    private readonly Vector3D[] _normals;
    private readonly ExactShapes _shapes;
    private readonly RegionEvidence _evidence;
    private readonly ExactGrowth _growth;
    private readonly MeshFlood _flood;
    private readonly double _noise;
    private readonly bool[] _tried;
    private readonly bool[] _planeOnly;
    private readonly List<int> _claimed = [];

    /// <param name="tolerance">How far a corner may lie off its surface, mm.</param>
    /// <param name="noise">Largest standard deviation of corners that lie on their surface but for how the file writes numbers, mm.</param>
    public CadRegions(TriangleMesh mesh, double tolerance, double noise)
    {
        _mesh = mesh;
        _noise = noise;
        _neighbours = mesh.Topology.Neighbours;
        _normals = Normals(mesh, tolerance);
        _shapes = new(mesh, _normals, tolerance);
        _flood = new(mesh);
        Label = new int[mesh.TriangleCount];
        Array.Fill(Label, -1);
        _evidence = new(mesh, _normals, Label);
        _growth = new(mesh, _normals, Label, _shapes, _evidence, tolerance, noise);
        _tried = new bool[mesh.TriangleCount];
        _planeOnly = new bool[mesh.TriangleCount];
    }

    /// <summary>
    /// Unit normals; a triangle of hardly any width faces anywhere and takes that of its neighbour across its longest edge.
    /// </summary>
    private static Vector3D[] Normals(TriangleMesh mesh, double tolerance)
    {
        const int Chain = 4, Thin = 20;
        var normals = new Vector3D[mesh.TriangleCount];
        var thin = new List<(int Triangle, int Neighbour)>();
        for (var t = 0; t < normals.Length; t++)
        {
            var (a, b, c) = mesh.Triangle(t);
            var cross = (b - a).Cross(c - a);
            var (ab, bc, ca) = ((b - a).Length, (c - b).Length, (a - c).Length);
            var longest = Math.Max(ab, Math.Max(bc, ca));
            normals[t] = cross.Normalized();
            if (cross.Length < Thin * tolerance * longest
                && mesh.Topology.Neighbours[(3 * t) + (longest == ab ? 0 : longest == bc ? 1 : 2)] is var across and >= 0)
            {
                thin.Add((t, across));
            }
        }

        for (var round = 0; round < Chain; round++)
        {
            thin.ForEach(pair => normals[pair.Triangle] = normals[pair.Neighbour]);
        }

        return normals;
    }

    /// <summary>Region of each triangle, −1 while it has none.</summary>
    public int[] Label { get; }

    /// <summary>Surface of each region; null for freeform.</summary>
    public List<Shape?> Shapes { get; } = [];

    /// <summary>Gives the largest surface through a free seed its triangles.</summary>
    /// <param name="pass">In the first, a seed that led nowhere stands for those around it; from then on each is tried, and tori too. What
    /// is doubtful waits longer.</param>
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
        var plane = _growth.From(_shapes.PlaneAt(seed), seed);
        var best = plane is { } flat && !IsFacet(flat.Shape, flat.Triangles, flat.Area, near.Count, lenient) ? plane : null;
        for (var k = 0; k < scales && best is null && !_planeOnly[seed] && (k == 0 || near.Count > Neighbourhoods[k - 1]); k++)
        {
            best = Curved(seed, near, Neighbourhoods[k], tori: k >= (thorough ? 1 : Usual - 1), (plane?.Area ?? 0) * 1.2);
        }

        // A single row of facets in a smooth surroundings may be a strip of something larger: that is tried first, once all that is sure is
        // known.
        if (best is { Shape: not Plane3D } strip && _evidence.Look(strip.Shape, strip.Triangles) is { HasInside: false, GoesOn: true } row)
        {
            if (pass < (row.FreeShare < 0.5 ? 1 : 2))
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
            if (_growth.From(shape, seed) is { } region && region.Area > least)
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
        return shape.Gradient((a + b + c) / 3).LineAngleTo(_normals[t]);
    });

    /// <summary>
    /// Larger regions take over what lies on their surface from smaller ones: strips that were given away before the surface was known.
    /// Regions that lose all are dropped.
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

        foreach (var region in Enumerable.Range(0, Shapes.Count).Where(r => Shapes[r] is not null).OrderByDescending(r => areas[r])
            .ThenBy(r => r))
        {
            var shape = Shapes[region]!;
            if (Label[first[region]] != region)
            {
                continue;
            }

            var all = _flood.Spread(first[region], int.MaxValue, (from, to) => Label[to] == region || (
                (Shapes[Label[to]] is null || areas[Label[to]] < areas[region]) && (shape is Plane3D || _evidence.IsSmooth(from, to))
                    && _growth.Fits(shape, to)));
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

    /// <summary>
    /// Free triangles within some rings of those claimed since the last call are worth another try; beside earlier ones, for planes, all
    /// when asked for.
    /// </summary>
    public void RetryBesideClaimed(bool planes)
    {
        Reach([.. _claimed], t => (_tried[t], _planeOnly[t]) = (false, false));
        _claimed.Clear();
        if (planes)
        {
            Reach([.. Enumerable.Range(0, Label.Length).Where(t => Label[t] >= 0)],
                t => (_planeOnly[t], _tried[t]) = (_planeOnly[t] || _tried[t], false));
        }
    }

    private void Reach(List<int> now, Action<int> visit)
    {
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
                        visit(n);
                        next.Add(n);
                    }
                }
            }

            now = next;
        }
    }

    /// <summary>
    /// Gives back what may as well be a piece of the free surface it lies in: facets of it, and a few corners it smoothly surrounds.
    /// </summary>
    public void ReleaseDoubtful()
    {
        var members = new List<int>[Shapes.Count];
        for (var r = 0; r < members.Length; r++)
        {
            members[r] = [];
        }

        for (var t = 0; t < Label.Length; t++)
        {
            if (Label[t] >= 0)
            {
                members[Label[t]].Add(t);
            }
        }

        for (var released = true; released;)
        {
            released = false;
            for (var r = 0; r < members.Length; r++)
            {
                if (members[r].Count == 0 || members[r].Count > MostDoubtful)
                {
                    continue;
                }

                if (IsDoubtful(Shapes[r]!, _evidence.Look(Shapes[r]!, members[r])))
                {
                    members[r].ForEach(t => Label[t] = -1);
                    members[r].Clear();
                    released = true;
                }
            }
        }
    }

    private bool IsDoubtful(Shape shape, in RegionEvidence.Evidence evidence)
    {
        // A surface that holds its corners very closely needs fewer of them.
        var enough = (evidence.Scatter > 0.5 * _noise ? 8 : 4) * RegionEvidence.Parameters(shape);
        return shape is Plane3D ? evidence.Corners < 6 && evidence.FreeShare > 0.4 : evidence.Corners < enough && evidence.FreeShare > 0.5;
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

    private bool IsSmooth(int from, int to) => Label[to] < 0 && _evidence.IsSmooth(from, to);

    /// <summary>
    /// A lone facet inside a smooth surface is not a plane of the part, unless it is far larger than the facets around it.
    /// </summary>
    private bool IsFacet(Shape plane, List<int> region, double area, int near, bool lenient)
    {
        if (region.Count > 2 ? lenient || _evidence.Look(plane, region).HasInside : near <= region.Count + 2)
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

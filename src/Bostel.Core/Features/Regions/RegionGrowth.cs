using Bostel.Core.Comparison;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Features;

/// <summary>
/// Grows a region of a scan, mesh or cloud, over one surface: from a point to the points beside it, as long as they lie within a band about
/// the surface and face as it does; the surface is fitted anew, until it stays (region growing by surface fitting, Besl and Jain 1988).
/// </summary>
internal sealed class RegionGrowth(AlignedScan scan)
{
    /// <summary>Points off the surface by more robust standard deviations do not tell where it ends.</summary>
    private const double Sigmas = 4;

    private const int Rounds = 4;

    /// <summary>Points that tell a shape well enough.</summary>
    private const int Fitted = 3000;

    /// <summary>Cosine of the largest turn of a point's normal from the surface's, 25°.</summary>
    private static readonly double _agreeing = Math.Cos(25 * Math.PI / 180);

    private readonly TriangleMesh _mesh = scan.Mesh;
    private readonly RigidTransform _back = scan.Transform.Inverse();

    /// <summary>The measured point of the scan nearest to a place, and how far off it is; −1 for an empty scan.</summary>
    public (int Vertex, double Distance) Nearest(Vector3D place)
    {
        var at = _back.Apply(place);
        var (best, least) = (-1, double.PositiveInfinity);
        for (var v = 0; v < _mesh.MeasuredVertexCount; v++)
        {
            var distance = (_mesh.Vertex(v) - at).LengthSquared;
            if (distance < least)
            {
                (best, least) = (v, distance);
            }
        }

        return (best, Math.Sqrt(least));
    }

    /// <param name="surface">About where it is known to lie, in nominal coordinates.</param>
    /// <param name="reach">Farthest a point may lie from it, mm.</param>
    /// <param name="scatter">Of the points about the surface where that is known well, mm; null: it is not.</param>
    /// <returns>
    /// Points of the scan in ascending order, those of enclosed places, as dents, among them; and the surface through them in nominal
    /// coordinates.
    /// </returns>
    public (List<int> Vertices, Shape Surface) From(int seed, Shape surface, double reach, double? scatter = null)
    {
        var shape = surface.Transformed(_back);
        var band = Math.Min(reach, Sigmas * scatter ?? reach);
        bool[] region = [];
        for (var round = 0; round < Rounds; round++)
        {
            region = Spread(seed, shape, band);
            var members = Members(region);
            if (members.Count < FeatureExtraction.FewestPoints
                || LeastSquares.Try(shape.Kind, Coordinates(members), new() { Start = shape }).Fit is not { } fit)
            {
                break;
            }

            (shape, band) = (fit.Shape, Math.Min(reach, Math.Max(1e-6, Sigmas * RobustFit.Scale(fit.Residuals))));
        }

        Enclose(region, shape, reach);
        return (Members(region), shape.Transformed(scan.Transform));
    }

    /// <summary>Points of a region beside which the scan goes on without it, or ends.</summary>
    public List<int> Border(IReadOnlyList<int> region)
    {
        var within = new bool[_mesh.VertexCount];
        foreach (var v in region)
        {
            within[v] = true;
        }

        var open = new SurfaceBorder(_mesh);
        var near = new List<int>();
        return [.. region.Where(v =>
        {
            scan.Beside.Of(v, near);
            return open.Holds(v) || near.Any(n => !within[n]);
        })];
    }

    private bool[] Spread(int seed, Shape shape, double band)
    {
        var taken = new bool[_mesh.VertexCount];
        var (stack, near) = (new Stack<int>([seed]), new List<int>());
        taken[seed] = true;
        while (stack.TryPop(out var from))
        {
            scan.Beside.Of(from, near);
            foreach (var to in near)
            {
                if (!taken[to] && to < _mesh.MeasuredVertexCount && Math.Abs(shape.Distance(_mesh.Vertex(to))) <= band && Faces(to, shape))
                {
                    taken[to] = true;
                    stack.Push(to);
                }
            }
        }

        return taken;
    }

    /// <summary>
    /// Takes in what lies within the reach, is surrounded by the region and faces its way on the whole: a dent or a lump is of the surface,
    /// however it is bent; the other side of a sheet and what floats before it are not.
    /// </summary>
    private void Enclose(bool[] region, Shape shape, double reach)
    {
        var beside = Enumerable.Range(0, _mesh.MeasuredVertexCount)
            .Where(v => !region[v] && Math.Abs(shape.Distance(_mesh.Vertex(v))) <= reach).ToHashSet();
        var members = Members(region);
        var side = members.Sum(v => Facing(v, shape));
        var near = new List<int>();
        foreach (var group in scan.Beside.Groups(beside))
        {
            if (group.Count < members.Count && (!_mesh.HasNormals || group.Sum(v => Facing(v, shape)) * side > 0) && IsSurrounded(group))
            {
                group.ForEach(v => region[v] = true);
            }
        }

        bool IsSurrounded(List<int> group)
        {
            var touches = false;
            foreach (var v in group)
            {
                scan.Beside.Of(v, near);
                if (near.Any(n => !region[n] && !beside.Contains(n)))
                {
                    return false;
                }

                touches |= near.Any(n => region[n]);
            }

            return touches;
        }
    }

    /// <summary>Whether a point faces as the surface does there; bare points have no sense, and some no normal.</summary>
    private bool Faces(int v, Shape shape) => !_mesh.HasNormals || Math.Abs(Facing(v, shape)) >= _agreeing;

    /// <summary>Cosine between a point's normal and the surface's; 0 without one.</summary>
    private double Facing(int v, Shape shape) => _mesh.HasNormals ? shape.Gradient(_mesh.Vertex(v)).Dot(_mesh.Normal(v)) : 0;

    private double[] Coordinates(List<int> members)
    {
        var step = Math.Max(1, members.Count / Fitted);
        return [.. members.Where((_, i) => i % step == 0).SelectMany(v => _mesh.Vertex(v).ToArray())];
    }

    private static List<int> Members(bool[] region) => [.. Enumerable.Range(0, region.Length).Where(v => region[v])];
}

using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Spatial;

namespace Bostel.Core.Segmentation;

/// <summary>
/// Regions of a cloud that spread from a point to the points beside it, as regions of a mesh spread from a triangle: over a connected
/// piece, while the surface turns little, or over one plane, cylinder, cone or sphere (region growing by surface fitting, Besl and Jain
/// 1988). Points within two and a half times the median spacing lie beside each other.
/// </summary>
internal sealed class CloudGrowth
{
    private const double Beside = 2.5;

    /// <summary>Patches about the seed: the most points, the largest turn from one to the next, rad.</summary>
    private static readonly (int Most, double Turn)[] _patches = [(40, 0.35), (120, 0.35), (400, 0.25), (1500, 0.2)];

    /// <summary>Points that are too few to tell a shape.</summary>
    private const int Fewest = 12;

    /// <summary>Points of a fit at most.</summary>
    private const int MostFitted = 2000;

    /// <summary>How much rougher a patch may be than a smaller one: more, and it runs over an edge.</summary>
    private const double Rougher = 2;

    /// <summary>Points off the surface by more standard deviations, or turned by more rad, are not on it.</summary>
    private const double Sigmas = 4, Turned = 0.44;

    /// <summary>Share of the scatter of a simpler shape below which another is better.</summary>
    private const double Better = 0.9;

    private const int Rounds = 3;

    private readonly TriangleMesh _cloud;
    private readonly PointTree _tree;
    private readonly double _reach;
    private readonly Lazy<Vector3D[]> _normals;

    public CloudGrowth(TriangleMesh cloud)
    {
        _cloud = cloud;
        _tree = new(cloud.Coordinates);
        _reach = Beside * PointSpacing.Median(cloud.Coordinates, _tree);
        _normals = new(() => CloudNormals.Unsigned(cloud.Coordinates, _tree, _reach));
    }

    public int Nearest(Vector3D p) => _tree.Nearest(p);

    /// <summary>A point and nothing else.</summary>
    public bool[] Alone(int seed) => Spread(seed, 1, (_, _) => false);

    /// <summary>What hangs together with a point.</summary>
    public bool[] Piece(int seed) => Spread(seed, int.MaxValue, (_, _) => true);

    /// <summary>Spreads while the surface turns by no more than an angle from one point to the next.</summary>
    public bool[] ByTurn(int seed, double degrees)
    {
        var least = Math.Cos(degrees * Math.PI / 180);
        var normals = _normals.Value;
        return Spread(seed, int.MaxValue, (from, to) => Math.Abs(normals[from].Dot(normals[to])) >= least);
    }

    /// <summary>The surface that a point lies on, and its points; null where none is told.</summary>
    /// <param name="band">Half width, mm; four times the scatter when null.</param>
    public (FitResult Fit, bool[] Points)? Surface(int seed, double? band)
    {
        if (Patch(seed) is not { } fit)
        {
            return null;
        }

        var normals = _normals.Value;
        bool[] region = [];
        for (var round = 0; round < Rounds; round++)
        {
            var (shape, width) = (fit.Shape, band ?? Math.Max(Sigmas * fit.Scatter, 1e-6));
            region = Spread(seed, int.MaxValue, (_, to) => Math.Abs(shape.Distance(_cloud.Vertex(to))) <= width
                && Math.Abs(shape.Gradient(_cloud.Vertex(to)).Dot(normals[to])) >= Math.Cos(Turned));
            var members = Members(region);
            if (members.Length < Fewest
                || LeastSquares.Try(shape.Kind, Coordinates(members), new() { Start = shape }).Fit is not { } again)
            {
                break;
            }

            fit = again;
        }

        return (fit, region);
    }

    /// <summary>The shape of the largest patch that is not much rougher than a smaller one.</summary>
    private FitResult? Patch(int seed)
    {
        FitResult? patch = null;
        var normals = _normals.Value;
        foreach (var (most, turn) in _patches)
        {
            var least = Math.Cos(turn);
            var members = Members(Spread(seed, most, (from, to) => Math.Abs(normals[from].Dot(normals[to])) >= least));
            if (members.Length >= Fewest && Best(members) is { } fit
                && (patch is null || fit.Scatter < Rougher * Math.Max(patch.Scatter, 1e-6)))
            {
                patch = fit;
            }
        }

        return patch;
    }

    /// <summary>The simplest shape that is about as near as any; axes start from the normals (Benkő, Martin and Várady 2001).</summary>
    private FitResult? Best(int[] members)
    {
        var points = Coordinates(members);
        double[] normals = [.. members.SelectMany(m => _normals.Value[m].ToArray())];
        FitResult? best = null;
        foreach (var kind in (string[])["plane", "cylinder", "cone", "sphere"])
        {
            var around = kind == "cone" ? PointSums.Centroid(normals) : Vector3D.Zero;
            var held = kind is "cylinder" or "cone"
                ? LeastSquares.Try(kind, points, new() { Direction = PointSums.Scatter(normals, around).Vectors[0] }).Fit
                : null;
            var fit = kind is "cylinder" or "cone" && held is null ? null
                : LeastSquares.Try(kind, points, new() { Start = held?.Shape }).Fit;
            best = fit is not null && fit.Scatter < (Better * best?.Scatter ?? double.PositiveInfinity) ? fit : best;
        }

        return best;
    }

    /// <summary>Breadth first, so that what is cut off at a number lies round the seed.</summary>
    private bool[] Spread(int seed, int most, Func<int, int, bool> joins)
    {
        var taken = new bool[_cloud.VertexCount];
        var (queue, near, count) = (new Queue<int>(), new List<int>(), 1);
        taken[seed] = true;
        queue.Enqueue(seed);
        while (queue.TryDequeue(out var from))
        {
            _tree.Within(_cloud.Vertex(from), _reach, near);
            foreach (var to in near)
            {
                if (count < most && !taken[to] && joins(from, to))
                {
                    taken[to] = true;
                    count++;
                    queue.Enqueue(to);
                }
            }
        }

        return taken;
    }

    private static int[] Members(bool[] region) => [.. Enumerable.Range(0, region.Length).Where(i => region[i])];

    private double[] Coordinates(int[] members)
    {
        var step = Math.Max(1, members.Length / MostFitted);
        return [.. members.Where((_, i) => i % step == 0).SelectMany(m => _cloud.Vertex(m).ToArray())];
    }
}

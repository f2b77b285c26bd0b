using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Nominals;
using Bostel.Core.Spatial;

namespace Bostel.Core.Comparison;

/// <summary>Limits on what counts as the counterpart of a scan point: farther or turned away more than this is "no data".</summary>
public sealed record DeviationOptions(double MaxDistance, double MaxAngleDegrees = 60)
{
    /// <summary>
    /// Whether a closest point on the border of the reference counts. For an open one, as another scan, it does not: there the reference
    /// ends, and its end says nothing of the deviation.
    /// </summary>
    public bool BorderIsNoData { get; init; }

    /// <summary>
    /// For clouds without normals: from the part toward the device, in scan coordinates. Only surfaces that face it can be counterparts.
    /// </summary>
    public Vector3D? ViewDirection { get; init; }

    /// <summary>A distance of 2 % of the diagonal, at least 1 mm.</summary>
    public static DeviationOptions For(NominalModel nominal) => new(Math.Max(1, 0.02 * nominal.Mesh.Bounds.Diagonal));
}

/// <summary>
/// Signed deviation of every scan vertex, mm, positive out of the material; NaN where there is no counterpart and on patches, which were
/// not measured. <see cref="Triangles"/> is the closest nominal triangle (−1: none).
/// </summary>
public sealed record DeviationMap(double[] Values, int[] Triangles);

/// <summary>Scan-to-nominal deviation.</summary>
public static class Deviation
{
    private const int Chunk = 4096;

    /// <summary>Below this agreement of the normals around it (about 25° either way) a vertex lies on an edge.</summary>
    private const float SharpEdge = 0.9f;

    /// <summary>Below this the triangles around it are folded over each other: the vertex has no usable normal.</summary>
    private const float NoNormal = 0.5f;

    /// <summary>Cosine of 105°.</summary>
    internal const double FarSide = -0.26;

    /// <summary>What counts as within the noise: so many of its standard deviations, at least so many mm.</summary>
    internal const double WithinNoise = 3, LeastWithin = 0.01;

    /// <summary>What counts as far nearer, as a share of the other distance.</summary>
    internal const double FarNearer = 0.1;

    /// <summary>
    /// Deviation of every vertex of a scan from the nominal. The closest point is searched among triangles whose normal agrees within the
    /// angle limit, so that the far side of a thin wall is never taken. Where the closest face has an exact surface, freeform ones
    /// included, and the foot lies inside the face, the distance is taken to the exact surface instead of the triangulation.
    /// </summary>
    /// <param name="scan">Scan in its own coordinates, mm.</param>
    /// <param name="transform">Scan to nominal.</param>
    public static DeviationMap Compute(
        TriangleMesh scan, RigidTransform transform, NominalModel nominal, TriangleTree tree, DeviationOptions options,
        IProgress<double>? progress = null, CancellationToken cancel = default)
    {
        var values = new double[scan.VertexCount];
        var triangles = new int[scan.VertexCount];
        var walk = new Walk(scan, transform, nominal, tree, options);
        var chunks = (scan.VertexCount + Chunk - 1) / Chunk;
        var done = 0;

        // The points of a cloud come in any order: taken along a curve through space, each search starts near the one before.
        var order = scan.TriangleCount == 0 ? SpatialOrder.Of(scan.Coordinates) : null;
        Parallel.For(0, chunks, new ParallelOptions { CancellationToken = cancel }, chunk =>
        {
            var search = new ClosestSearch(tree);
            for (var k = chunk * Chunk; k < Math.Min(values.Length, (chunk + 1) * Chunk); k++)
            {
                var i = order?[k] ?? k;
                (values[i], triangles[i]) = walk.At(i, search);
            }

            progress?.Report((double)Interlocked.Increment(ref done) / chunks);
        });
        return new(values, triangles);
    }

    /// <summary>The same for chosen vertices only, in their order.</summary>
    public static double[] Compute(
        TriangleMesh scan, RigidTransform transform, NominalModel nominal, TriangleTree tree, DeviationOptions options,
        IReadOnlyList<int> vertices)
    {
        var values = new double[vertices.Count];
        var walk = new Walk(scan, transform, nominal, tree, options);
        Parallel.For(0, (values.Length + Chunk - 1) / Chunk, chunk =>
        {
            var search = new ClosestSearch(tree);
            for (var i = chunk * Chunk; i < Math.Min(values.Length, (chunk + 1) * Chunk); i++)
            {
                values[i] = walk.At(vertices[i], search).Value;
            }
        });
        return values;
    }

    private readonly struct Walk(
        TriangleMesh scan, RigidTransform transform, NominalModel nominal, TriangleTree tree, DeviationOptions options)
    {
        private readonly double _cosine = Math.Cos(options.MaxAngleDegrees * Math.PI / 180);
        private readonly float[]? _normals = scan.HasNormals ? scan.VertexNormals : null;
        private readonly float[] _agreement = scan.HasNormals ? scan.NormalAgreement : [];
        private readonly Vector3D _view = options.ViewDirection is { } view ? transform.Rotate(view).Normalized() : default;
        private readonly SurfaceBorder? _border = options.BorderIsNoData ? new(nominal.Mesh) : null;
        private readonly double _own = Math.Max(LeastWithin, WithinNoise * scan.Noise);

        /// <summary>The search goes on from the vertex before: neighbours in a scan are mostly neighbours in its numbering.</summary>
        public (double Value, int Triangle) At(int i, ClosestSearch search)
        {
            if (i >= scan.MeasuredVertexCount)
            {
                return (double.NaN, -1);
            }

            var p = transform.Apply(scan.Vertex(i));
            var n = _normals is null ? _view : transform.Rotate(Vector3D.At(_normals, i));

            // At a sharp edge of the scan the mean normal belongs to neither side: there only the far side of a wall is kept out.
            var limit = _normals is null ? (n.LengthSquared < 0.25 ? -2 : 0) : n.LengthSquared < 0.25 || _agreement[i] < NoNormal
                ? -2 : _agreement[i] < SharpEdge ? Math.Min(_cosine, FarSide) : _cosine;
            var hit = search.Closest(p, options.MaxDistance, n, limit);

            if (limit > -2 && _normals is not null && (!hit.Found || hit.Distance > LeastWithin))
            {
                hit = Own(p, n, hit) ?? hit;
            }

            if (hit.Found && _border is not null && _border.Holds(hit))
            {
                return (double.NaN, -1);
            }

            return (hit.Found ? Exact(p, hit, nominal, tree) : double.NaN, hit.Triangle);
        }

        /// <summary>
        /// However an edge nearby turned its normal, a surface within the noise is the point's own: no wall is that thin. So is one far
        /// nearer than any that faces the same way, unless it is the far side of a wall.
        /// </summary>
        private ClosestHit? Own(Vector3D p, Vector3D n, ClosestHit hit)
        {
            var reach = FarNearer * (hit.Found ? hit.Distance : options.MaxDistance);
            var own = tree.Closest(p, hit.Found && hit.Distance <= _own ? reach : _own);
            if (!own.Found && reach > _own)
            {
                own = tree.Closest(p, reach, -1, n, FarSide);
            }

            return own.Found ? own : null;
        }
    }

    private static double Exact(Vector3D p, in ClosestHit hit, NominalModel nominal, TriangleTree tree)
    {
        var chord = tree.SignedDistance(p, hit);
        if (nominal.ChordError <= 0 || hit.Part >= TrianglePart.Corner0)
        {
            return chord;
        }

        var face = nominal.Faces[nominal.FaceOfTriangle[hit.Triangle]];
        var exact = face.Shape is not null ? face.OutwardDistance(p)
            : nominal.ExactFoot(hit.Triangle, p) is var (foot, normal) ? (p - foot).Dot(normal)
            : chord;

        // Beyond the border of the face the exact surface goes on where the part does not: then the two differ by more than the chord
        // error.
        return Math.Abs(exact - chord) <= 3 * nominal.ChordError ? exact : chord;
    }
}

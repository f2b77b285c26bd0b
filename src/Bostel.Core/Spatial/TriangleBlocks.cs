using System.Runtime.CompilerServices;
using System.Runtime.Intrinsics;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Spatial;

/// <summary>
/// The corners of the triangles of an index, four triangles abreast: a block holds ax[4] ay[4] az[4] bx[4] … cz[4]. So the distances to
/// the four triangles of a leaf are computed at once. A place is 4·block + lane.
/// </summary>
internal sealed class TriangleBlocks
{
    public const int Lanes = 4;
    private const int Stride = 9 * Lanes;

    private readonly double[] _corners;
    private readonly int[] _triangles;
    private readonly int[] _places;

    /// <param name="triangles">Triangle at each place; a short block repeats its last.</param>
    /// <param name="origin">Corners are kept relative to it.</param>
    public TriangleBlocks(TriangleMesh mesh, int[] triangles, Vector3D origin)
    {
        _triangles = triangles;
        _corners = new double[9 * triangles.Length];
        _places = new int[mesh.TriangleCount];
        Parallel.For(0, (triangles.Length + 65535) / 65536, chunk =>
        {
            for (var place = Math.Min(triangles.Length, (chunk + 1) * 65536) - 1; place >= chunk * 65536; place--)
            {
                _places[triangles[place]] = place;
                var (a, b, c) = mesh.Triangle(triangles[place]);
                var at = (Stride * (place / Lanes)) + (place % Lanes);
                Store(at, a - origin);
                Store(at + (3 * Lanes), b - origin);
                Store(at + (6 * Lanes), c - origin);
            }
        });
    }

    public int TriangleAt(int place) => _triangles[place];

    public int PlaceOf(int triangle) => _places[triangle];

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public (Vector3D A, Vector3D B, Vector3D C) Corners(int place)
    {
        ref var c = ref _corners[(Stride * (place / Lanes)) + (place % Lanes)];
        return (
            new(c, Unsafe.Add(ref c, 4), Unsafe.Add(ref c, 8)),
            new(Unsafe.Add(ref c, 12), Unsafe.Add(ref c, 16), Unsafe.Add(ref c, 20)),
            new(Unsafe.Add(ref c, 24), Unsafe.Add(ref c, 28), Unsafe.Add(ref c, 32)));
    }

    /// <summary>
    /// Squared distances of a point from the four triangles of a block, up to rounding: <see cref="TriangleTree"/> decides exactly. The
    /// least of the distances to the three edges and, where the foot lies inside, to the plane; 0 for a triangle too thin for its plane to
    /// be trusted (sine of an angle under 1e-5).
    /// </summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public Vector256<double> DistancesSquared(int block, Vector3D p)
    {
        var (px, py, pz) = (Vector256.Create(p.X), Vector256.Create(p.Y), Vector256.Create(p.Z));
        ref var c = ref _corners[Stride * block];
        var (ax, ay, az) = (Vector256.LoadUnsafe(ref c), Vector256.LoadUnsafe(ref c, 4), Vector256.LoadUnsafe(ref c, 8));
        var (ux, uy, uz) =
            (Vector256.LoadUnsafe(ref c, 12) - ax, Vector256.LoadUnsafe(ref c, 16) - ay, Vector256.LoadUnsafe(ref c, 20) - az);
        var (vx, vy, vz) =
            (Vector256.LoadUnsafe(ref c, 24) - ax, Vector256.LoadUnsafe(ref c, 28) - ay, Vector256.LoadUnsafe(ref c, 32) - az);
        var (dx, dy, dz) = (px - ax, py - ay, pz - az);
        var tiny = Vector256.Create(1e-300);
        var (uu, vv, uv) = (Dot(ux, uy, uz, ux, uy, uz), Dot(vx, vy, vz, vx, vy, vz), Dot(ux, uy, uz, vx, vy, vz));
        var (du, dv) = (Dot(dx, dy, dz, ux, uy, uz), Dot(dx, dy, dz, vx, vy, vz));
        var least = Vector256.Min(OffEdge(dx, dy, dz, ux, uy, uz, du / (uu + tiny)), OffEdge(dx, dy, dz, vx, vy, vz, dv / (vv + tiny)));

        // The third edge runs from b to c: u to v.
        var ww = uu + vv - (uv + uv);
        least = Vector256.Min(
            least, OffEdge(dx - ux, dy - uy, dz - uz, vx - ux, vy - uy, vz - uz, (dv - du - uv + uu) / Vector256.Max(ww, tiny)));

        var (nx, ny, nz) = ((uy * vz) - (uz * vy), (uz * vx) - (ux * vz), (ux * vy) - (uy * vx));
        var nn = Dot(nx, ny, nz, nx, ny, nz);
        var (s, t) = ((vv * du) - (uv * dv), (uu * dv) - (uv * du));
        var inside = Vector256.GreaterThanOrEqual(Vector256.Min(s, t), Vector256<double>.Zero) & Vector256.LessThanOrEqual(s + t, nn);
        var height = Dot(dx, dy, dz, nx, ny, nz);
        var thin = Vector256.LessThan(nn, 1e-10 * uu * vv) | Vector256.LessThan(ww, 1e-10 * (uu + vv));
        var nearest = Vector256.ConditionalSelect(inside, height * height / (nn + tiny), least);
        return Vector256.AndNot(nearest, thin);
    }

    /// <summary>
    /// Which of the four triangles of a block a ray meets, ahead or behind, a bit each, and where; both sides (Möller and Trumbore 1997).
    /// </summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public uint Met(int block, Vector3D start, Vector3D direction, out Vector256<double> distances)
    {
        ref var c = ref _corners[Stride * block];
        var (ax, ay, az) = (Vector256.LoadUnsafe(ref c), Vector256.LoadUnsafe(ref c, 4), Vector256.LoadUnsafe(ref c, 8));
        var (ux, uy, uz) =
            (Vector256.LoadUnsafe(ref c, 12) - ax, Vector256.LoadUnsafe(ref c, 16) - ay, Vector256.LoadUnsafe(ref c, 20) - az);
        var (vx, vy, vz) =
            (Vector256.LoadUnsafe(ref c, 24) - ax, Vector256.LoadUnsafe(ref c, 28) - ay, Vector256.LoadUnsafe(ref c, 32) - az);
        var (dx, dy, dz) = (Vector256.Create(direction.X), Vector256.Create(direction.Y), Vector256.Create(direction.Z));
        var (sx, sy, sz) = (Vector256.Create(start.X) - ax, Vector256.Create(start.Y) - ay, Vector256.Create(start.Z) - az);
        var (hx, hy, hz) = ((dy * vz) - (dz * vy), (dz * vx) - (dx * vz), (dx * vy) - (dy * vx));
        var (qx, qy, qz) = ((sy * uz) - (sz * uy), (sz * ux) - (sx * uz), (sx * uy) - (sy * ux));
        var det = (ux * hx) + (uy * hy) + (uz * hz);
        var s = ((sx * hx) + (sy * hy) + (sz * hz)) / det;
        var t = ((dx * qx) + (dy * qy) + (dz * qz)) / det;
        distances = ((vx * qx) + (vy * qy) + (vz * qz)) / det;

        // A ray within the triangle's plane has det 0: what is divided by it is no number or infinite, and meets nothing.
        return (Vector256.GreaterThanOrEqual(Vector256.Min(s, t), Vector256<double>.Zero)
            & Vector256.LessThanOrEqual(s + t, Vector256<double>.One)).ExtractMostSignificantBits();
    }

    /// <summary>Squared distance of d from the segment from 0 to e; <paramref name="share"/> is where the foot on its line lies.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static Vector256<double> OffEdge(
        Vector256<double> dx, Vector256<double> dy, Vector256<double> dz, Vector256<double> ex, Vector256<double> ey, Vector256<double> ez,
        Vector256<double> share)
    {
        var t = Vector256.Min(Vector256.Max(share, Vector256<double>.Zero), Vector256<double>.One);
        var (x, y, z) = (dx - (t * ex), dy - (t * ey), dz - (t * ez));
        return Dot(x, y, z, x, y, z);
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static Vector256<double> Dot(Vector256<double> ax, Vector256<double> ay, Vector256<double> az, Vector256<double> bx,
        Vector256<double> by, Vector256<double> bz) =>
        Vector256.MultiplyAddEstimate(ax, bx, Vector256.MultiplyAddEstimate(ay, by, az * bz));

    private void Store(int at, Vector3D v) => (_corners[at], _corners[at + Lanes], _corners[at + (2 * Lanes)]) = v;
}

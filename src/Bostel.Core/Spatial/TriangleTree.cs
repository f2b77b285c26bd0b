using System.Runtime.CompilerServices;
using System.Runtime.Intrinsics;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Spatial;

/// <summary>The closest point found on a mesh. <see cref="Triangle"/> is −1 when nothing lay within the limit.</summary>
public readonly record struct ClosestHit(int Triangle, TrianglePart Part, Vector3D Point, double DistanceSquared)
{
    public bool Found => Triangle >= 0;

    public double Distance => Math.Sqrt(DistanceSquared);
}

/// <summary>
/// Index over the triangles of a mesh for exact closest points, signed distances and rays. Boxes are tested eight at a time in single
/// precision, rounded outward; triangles in double precision about a local origin. Safe for concurrent reading.
/// </summary>
public sealed class TriangleTree
{
    private readonly TreeWalk _walk;
    private readonly TriangleBlocks _blocks;
    private readonly Vector3D _origin;
    private readonly double _slack;
    private readonly Lazy<Pseudonormals> _pseudonormals;

    public TriangleTree(TriangleMesh mesh)
    {
        if (mesh.TriangleCount == 0)
        {
            throw new BadInputException("The reference has no triangles to measure against.");
        }

        Mesh = mesh;
        _origin = mesh.Bounds.Center;

        // The query point is rounded to single precision too; half an ulp of the extent covers it inside the box.
        var (boxes, children, triangles) = new TriangleTreeBuilder(mesh, _origin, (float)(mesh.Bounds.Diagonal * 2.5e-7)).Build();
        _walk = new(boxes, children);
        _blocks = new(mesh, triangles, _origin);
        _slack = 1e-16 * mesh.Bounds.Diagonal * mesh.Bounds.Diagonal;
        MeanEdge = mesh.MeanEdge();
        _pseudonormals = new(() => new Pseudonormals(mesh));
    }

    public TriangleMesh Mesh { get; }

    /// <summary>mm.</summary>
    internal double MeanEdge { get; }

    /// <summary>The unit normal of a triangle, in the sense of its corners.</summary>
    public Vector3D FaceNormal(int triangle) => _pseudonormals.Value.Face(triangle);

    /// <summary>
    /// Closest point within a distance. With a direction, only triangles whose normal makes a cosine of at least
    /// <paramref name="minimumCosine"/> with it count. <paramref name="seed"/> is a triangle likely to be close (or −1).
    /// </summary>
    /// <param name="mostBlocks">
    /// Gives up after so many blocks of triangles, nearest first, with what was found until then: for rough searches, where a direction
    /// that no triangle around
    /// agrees with would have all of them tested.
    /// </param>
    public ClosestHit Closest(
        Vector3D point, double maxDistance = double.PositiveInfinity, int seed = -1, Vector3D direction = default,
        double minimumCosine = -2, int mostBlocks = int.MaxValue)
    {
        var p = Local(point);
        var condition = new NormalCondition(direction, minimumCosine);
        var best = Start(p, maxDistance, seed >= 0 ? BlockHolding(seed) : -1, condition);
        Descend(p, condition, ref best, mostBlocks);
        return Global(best);
    }

    internal int BlockHolding(int triangle) => _blocks.PlaceOf(triangle) / TriangleBlocks.Lanes;

    internal Vector3D Local(Vector3D point) => point - _origin;

    internal ClosestHit Global(in ClosestHit hit) => hit.Found ? hit with { Point = hit.Point + _origin } : hit;

    /// <summary>The best of a block (−1: none) within the distance.</summary>
    internal ClosestHit Start(Vector3D p, double maxDistance, int block, in NormalCondition condition)
    {
        var best = new ClosestHit(-1, TrianglePart.Face, default, maxDistance * maxDistance);
        if (block >= 0)
        {
            TestBlock(block, p, condition, ref best);
        }

        return best;
    }

    /// <summary>Improves on a hit by all triangles, nearest boxes first.</summary>
    internal void Descend(Vector3D p, in NormalCondition condition, ref ClosestHit best, int mostBlocks = int.MaxValue)
    {
        var query = new ClosestQuery(this, p, condition, ref best, mostBlocks);
        _walk.Visit(ref query);
    }

    /// <summary>
    /// The leaves whose boxes meet a ball: boxes in groups of eight as in a node, blocks; returns how many, −1 when there is no room for
    /// all.
    /// </summary>
    internal int Collect(Vector3D p, double radius, Span<float> boxes, Span<int> blocks)
    {
        var query = new BallQuery(_walk, p, radius, boxes, blocks);
        _walk.Visit(ref query);
        query.FillLastGroup();
        return query.Count;
    }

    /// <summary>The point of one triangle that is closest.</summary>
    public ClosestHit OnTriangle(int triangle, Vector3D point)
    {
        var p = Local(point);
        var (a, b, c) = _blocks.Corners(_blocks.PlaceOf(triangle));
        var q = TriangleDistance.ClosestPoint(p, a, b, c, out var part);
        return new(triangle, part, q + _origin, (p - q).LengthSquared);
    }

    /// <summary>
    /// Signed distance from the mesh: positive out of the material. The sign comes from the angle-weighted pseudonormal of the closest
    /// face, edge or corner (Bærentzen and Aanæs 2005).
    /// </summary>
    public double SignedDistance(Vector3D point, in ClosestHit hit)
    {
        var offset = point - hit.Point;
        var distance = Math.Sqrt(hit.DistanceSquared);
        return offset.Dot(_pseudonormals.Value.At(hit.Triangle, hit.Part)) < 0 ? -distance : distance;
    }

    /// <summary>
    /// Distance along a ray to the first triangle beyond <paramref name="from"/>, and that triangle; −1 when it meets none.
    /// </summary>
    public int FirstHit(Vector3D start, Vector3D direction, double from, double to, out double distance)
    {
        var query = new RayQuery(_blocks, start - _origin, direction, from, to);
        _walk.Visit(ref query);
        distance = query.To;
        return query.Found;
    }

    /// <summary>Whether a ray meets any triangle between two distances: quicker than finding the first.</summary>
    public bool Blocks(Vector3D start, Vector3D direction, double from, double to)
    {
        var query = new RayQuery(_blocks, start - _origin, direction, from, to) { Any = true };
        _walk.Visit(ref query);
        return query.Found >= 0;
    }

    /// <summary>All crossings of a line, behind its start (distance below 0) as well as ahead, in order: distance, triangle.</summary>
    public void AllHits(Vector3D start, Vector3D direction, List<(double Distance, int Triangle)> hits)
    {
        hits.Clear();
        var query = new RayQuery(_blocks, start - _origin, direction, double.NegativeInfinity, double.PositiveInfinity) { All = hits };
        _walk.Visit(ref query);
        hits.Sort();
    }

    /// <summary>Improves on a hit by the triangles of a block.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    internal void TestBlock(int block, Vector3D p, in NormalCondition condition, ref ClosestHit best)
    {
        var distances = _blocks.DistancesSquared(block, p);
        for (var untested = 15u; ;)
        {
            var near = untested & Vector256.LessThanOrEqual(distances, Vector256.Create((best.DistanceSquared * 1.000001) + _slack))
                .ExtractMostSignificantBits();
            if (near == 0)
            {
                return;
            }

            // The nearest first: mostly it leaves none of the others.
            var lane = System.Numerics.BitOperations.TrailingZeroCount(near);
            for (near &= near - 1; near != 0; near &= near - 1)
            {
                var other = System.Numerics.BitOperations.TrailingZeroCount(near);
                lane = distances.GetElement(other) < distances.GetElement(lane) ? other : lane;
            }

            untested &= ~(1u << lane);
            Test((TriangleBlocks.Lanes * block) + lane, p, condition, ref best);
        }
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private void Test(int place, Vector3D p, in NormalCondition condition, ref ClosestHit best)
    {
        var (a, b, c) = _blocks.Corners(place);
        var q = TriangleDistance.ClosestPoint(p, a, b, c, out var part);
        var d2 = (p - q).LengthSquared;
        var triangle = _blocks.TriangleAt(place);
        if (d2 > best.DistanceSquared || (condition.Applies && !condition.Allows(FaceNormal(triangle))))
        {
            return;
        }

        // Equal distances (shared edges) go to the lower number, so that the result does not depend on the walk.
        if (d2 < best.DistanceSquared || best.Triangle < 0 || triangle < best.Triangle)
        {
            best = new(triangle, part, q, d2);
        }
    }
}

/// <summary>
/// Counterparts are only triangles whose normal makes at least this cosine with a direction; all when it is −1 or less.
/// </summary>
internal readonly record struct NormalCondition(Vector3D Direction, double MinimumCosine)
{
    public bool Applies => MinimumCosine > -1;

    public bool Allows(Vector3D normal) => normal.Dot(Direction) >= MinimumCosine;
}

using System.Runtime.CompilerServices;
using System.Runtime.Intrinsics;
using Bostel.Core.Geometry;

namespace Bostel.Core.Spatial;

/// <summary>Improves on a hit by all triangles of an index, nearest boxes first. The point is relative to the index's origin.</summary>
/// <param name="mostBlocks">Gives up after so many blocks.</param>
internal ref struct ClosestQuery(
    TriangleTree tree, Vector3D point, in NormalCondition condition, ref ClosestHit best, int mostBlocks) : ITreeQuery
{
    private readonly TriangleTree _tree = tree;
    private readonly Vector3D _point = point;
    private readonly BoxQuery _boxes = new(point);
    private readonly ref readonly NormalCondition _condition = ref condition;
    private readonly ref ClosestHit _best = ref best;
    private float _limit = BoxQuery.Limit(best.DistanceSquared);
    private int _left = mostBlocks;

    public static bool NearestFirst => true;

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public readonly uint Meets(ref float boxes, out Vector256<float> nearness) =>
        _boxes.Within(ref boxes, _limit, out nearness);

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public readonly bool StillMeets(float nearness) => nearness <= _limit;

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public bool Look(int block, int place)
    {
        if (--_left < 0)
        {
            return false;
        }

        _tree.TestBlock(block, _point, _condition, ref _best);
        _limit = BoxQuery.Limit(_best.DistanceSquared);
        return true;
    }
}

/// <summary>
/// The leaves whose boxes meet a ball: boxes in groups of eight as in a node, blocks. There may be more than there is room for: the walk
/// ends then.
/// </summary>
internal ref struct BallQuery(TreeWalk walk, Vector3D center, double radius, Span<float> boxes, Span<int> blocks) : ITreeQuery
{
    private readonly TreeWalk _walk = walk;
    private readonly BoxQuery _ball = new(center);
    private readonly float _limit = BoxQuery.Limit(radius * radius);
    private readonly Span<float> _boxes = boxes;
    private readonly Span<int> _blocks = blocks;
    private int _count;

    public static bool NearestFirst => false;

    /// <summary>How many leaves there are, −1 when there is no room for all.</summary>
    public readonly int Count => _count;

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public readonly uint Meets(ref float boxes, out Vector256<float> nearness) => _ball.Within(ref boxes, _limit, out nearness);

    public readonly bool StillMeets(float nearness) => true;

    public bool Look(int block, int place)
    {
        if (_count == _blocks.Length)
        {
            _count = -1;
            return false;
        }

        for (var bound = 0; bound < 6; bound++)
        {
            _boxes[At(_count, bound)] = _walk.Bound(place, bound);
        }

        _blocks[_count++] = block;
        return true;
    }

    /// <summary>Places of the last group that hold no leaf lie nowhere.</summary>
    public readonly void FillLastGroup()
    {
        for (var rest = _count; rest > 0 && rest % 8 != 0; rest++)
        {
            for (var bound = 0; bound < 6; bound++)
            {
                _boxes[At(rest, bound)] = bound < 3 ? float.PositiveInfinity : float.NegativeInfinity;
            }
        }
    }

    private static int At(int leaf, int bound) => (48 * (leaf / 8)) + (8 * bound) + (leaf % 8);
}

/// <summary>A point against eight boxes at a time, in single precision. The point is relative to the index's origin.</summary>
internal readonly struct BoxQuery(Vector3D point)
{
    private readonly Vector256<float> _x = Vector256.Create((float)point.X);
    private readonly Vector256<float> _y = Vector256.Create((float)point.Y);
    private readonly Vector256<float> _z = Vector256.Create((float)point.Z);

    /// <summary>A squared distance, not below it in single precision.</summary>
    public static float Limit(double distanceSquared) =>
        distanceSquared > 1e37 ? float.MaxValue : (float)(distanceSquared * 1.000004) + 1e-30f;

    /// <summary>
    /// Which of eight boxes come within a squared distance of the point, a bit each. Boxes that are not there are infinitely far.
    /// </summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public uint Within(ref float box, float limit, out Vector256<float> distances)
    {
        var dx = Vector256.Max(
            Vector256.Max(Vector256.LoadUnsafe(ref box) - _x, _x - Vector256.LoadUnsafe(ref box, 24)), Vector256<float>.Zero);
        var dy = Vector256.Max(
            Vector256.Max(Vector256.LoadUnsafe(ref box, 8) - _y, _y - Vector256.LoadUnsafe(ref box, 32)), Vector256<float>.Zero);
        var dz = Vector256.Max(
            Vector256.Max(Vector256.LoadUnsafe(ref box, 16) - _z, _z - Vector256.LoadUnsafe(ref box, 40)), Vector256<float>.Zero);
        distances = (dx * dx) + (dy * dy) + (dz * dz);
        return Vector256.LessThanOrEqual(distances, Vector256.Create(limit)).ExtractMostSignificantBits();
    }
}

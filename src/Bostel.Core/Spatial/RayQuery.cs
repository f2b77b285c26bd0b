using System.Numerics;
using System.Runtime.CompilerServices;
using System.Runtime.Intrinsics;
using Bostel.Core.Geometry;

namespace Bostel.Core.Spatial;

/// <summary>
/// A ray through the boxes of an index. Start and direction are relative to the index's origin. Eight boxes are met at a time in single
/// precision, widened by more than its rounding; triangles in double precision, four at a time.
/// </summary>
internal ref struct RayQuery : ITreeQuery
{
    /// <summary>Half an ulp of single precision and to spare, of the start; and of the few operations that follow.</summary>
    private const float StartRounding = 1.5e-7f, Rounding = 1e-6f;

    /// <summary>Along an axis with less of the direction than this, a box is met everywhere or nowhere.</summary>
    private const double Flat = 1e-30;

    private readonly TriangleBlocks _blocks;
    private readonly Vector3D _start, _direction;
    private readonly Slab _x, _y, _z;
    private readonly double _from;

    public RayQuery(TriangleBlocks blocks, Vector3D start, Vector3D direction, double from, double to)
    {
        (_blocks, _start, _direction, _from, To) = (blocks, start, direction, from, to);
        (_x, _y, _z) = (new(start.X, direction.X, 0), new(start.Y, direction.Y, 1), new(start.Z, direction.Z, 2));
    }

    public static bool NearestFirst => true;

    /// <summary>Any triangle will do; the first found ends the walk.</summary>
    public bool Any { get; init; }

    /// <summary>Takes all crossings (distance, triangle) instead of the first.</summary>
    public List<(double, int)>? All { get; init; }

    /// <summary>
    /// The triangle met, −1 when there is none. Of several at one distance (a shared edge) the lowest, so that it does not depend on the
    /// walk.
    /// </summary>
    public int Found { get; private set; } = -1;

    /// <summary>How far the ray goes: to the triangle found once there is one.</summary>
    public double To { get; private set; }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public readonly uint Meets(ref float boxes, out Vector256<float> nearness)
    {
        nearness = Vector256.Max(Vector256.Max(_x.Enter(ref boxes), _y.Enter(ref boxes)), _z.Enter(ref boxes));
        var leave = Vector256.Min(Vector256.Min(_x.Leave(ref boxes), _y.Leave(ref boxes)), _z.Leave(ref boxes));
        nearness -= Rounding * Vector256.Abs(nearness);
        leave += Rounding * Vector256.Abs(leave);

        // Both ends in single precision, rounded outward.
        var (least, most) = (float.BitDecrement((float)_from), float.BitIncrement((float)To));
        return (Vector256.LessThanOrEqual(nearness, leave) & Vector256.GreaterThanOrEqual(leave, Vector256.Create(least))
            & Vector256.LessThanOrEqual(nearness, Vector256.Create(most))).ExtractMostSignificantBits();
    }

    public readonly bool StillMeets(float nearness) => !(nearness > To);

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public bool Look(int block, int place)
    {
        var first = TriangleBlocks.Lanes * block;
        for (var mask = _blocks.Met(block, _start, _direction, out var distances); mask != 0; mask &= mask - 1)
        {
            var lane = BitOperations.TrailingZeroCount(mask);
            var (t, triangle) = (distances.GetElement(lane), _blocks.TriangleAt(first + lane));
            if (t <= _from || t > To)
            {
                continue;
            }

            if (All is null)
            {
                if (t < To || (Found >= 0 && triangle < Found))
                {
                    (To, Found) = (t, triangle);
                }
            }
            else if (lane == 0 || triangle != _blocks.TriangleAt(first + lane - 1))
            {
                // A short block repeats its last triangle.
                All.Add((t, triangle));
            }
        }

        return !(Any && Found >= 0);
    }

    /// <summary>The two planes of boxes across an axis, in the order in which the ray meets them.</summary>
    private readonly struct Slab
    {
        private readonly nuint _near, _far;
        private readonly Vector256<float> _inverse, _nearStart, _farStart;

        public Slab(double start, double direction, int axis)
        {
            var forward = direction >= 0;
            var along = forward ? Math.Max(direction, Flat) : Math.Min(direction, -Flat);
            var off = ((float)Math.Abs(start) * StartRounding) + float.Epsilon;
            (_near, _far) = ((nuint)((forward ? 0 : 24) + (8 * axis)), (nuint)((forward ? 24 : 0) + (8 * axis)));
            _inverse = Vector256.Create((float)(1 / along));
            _nearStart = Vector256.Create((float)start + (forward ? off : -off));
            _farStart = Vector256.Create((float)start - (forward ? off : -off));
        }

        [MethodImpl(MethodImplOptions.AggressiveInlining)]
        public Vector256<float> Enter(ref float box) => (Vector256.LoadUnsafe(ref box, _near) - _nearStart) * _inverse;

        [MethodImpl(MethodImplOptions.AggressiveInlining)]
        public Vector256<float> Leave(ref float box) => (Vector256.LoadUnsafe(ref box, _far) - _farStart) * _inverse;
    }
}

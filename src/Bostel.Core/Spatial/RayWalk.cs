using System.Numerics;
using System.Runtime.CompilerServices;
using System.Runtime.Intrinsics;
using Bostel.Core.Geometry;

namespace Bostel.Core.Spatial;

/// <summary>
/// A ray through the boxes of an index. Start and direction are relative to the index's origin. Eight boxes are met at a time in single
/// precision, widened by more than its rounding; triangles in double precision, four at a time.
/// </summary>
internal readonly struct RayWalk
{
    /// <summary>Half an ulp of single precision and to spare, of the start; and of the few operations that follow.</summary>
    private const float StartRounding = 1.5e-7f, Rounding = 1e-6f;

    /// <summary>Along an axis with less of the direction than this, a box is met everywhere or nowhere.</summary>
    private const double Flat = 1e-30;

    private readonly float[] _boxes;
    private readonly int[] _children;
    private readonly TriangleBlocks _blocks;
    private readonly Vector3D _start, _direction;
    private readonly Slab _x, _y, _z;

    public RayWalk(float[] boxes, int[] children, TriangleBlocks blocks, Vector3D start, Vector3D direction)
    {
        (_boxes, _children, _blocks, _start, _direction) = (boxes, children, blocks, start, direction);
        (_x, _y, _z) = (new(start.X, direction.X, 0), new(start.Y, direction.Y, 1), new(start.Z, direction.Z, 2));
    }

    /// <summary>
    /// The first triangle beyond <paramref name="from"/> and before <paramref name="to"/>, which becomes its distance; −1 when there is
    /// none. Of several at one distance (a shared edge) the lowest, so that it does not depend on the walk.
    /// </summary>
    public int First(double from, ref double to)
    {
        var found = -1;
        Walk(null, false, from, ref to, ref found);
        return found;
    }

    /// <summary>Whether there is any triangle between two distances.</summary>
    public bool Any(double from, double to)
    {
        var found = -1;
        Walk(null, true, from, ref to, ref found);
        return found >= 0;
    }

    public void All(List<(double, int)> hits)
    {
        var to = double.PositiveInfinity;
        var found = -1;
        Walk(hits, false, double.NegativeInfinity, ref to, ref found);
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    [SkipLocalsInit]
    private void Walk(List<(double, int)>? all, bool any, double from, ref double to, ref int found)
    {
        Span<int> stack = stackalloc int[TriangleTree.StackSize];
        Span<float> enters = stackalloc float[TriangleTree.StackSize];
        Span<float> lanes = stackalloc float[8];
        var top = 0;
        (stack[top], enters[top++]) = (0, float.NegativeInfinity);
        while (top > 0)
        {
            var node = stack[--top];
            if (enters[top] > to)
            {
                continue;
            }

            if (node < 0)
            {
                Test(TriangleTree.BlockOf(node), all, from, ref to, ref found);
                if (any && found >= 0)
                {
                    return;
                }

                continue;
            }

            var mask = Met(ref _boxes[48 * node], from, to, out var entered);
            entered.CopyTo(lanes);
            for (; mask != 0; mask &= mask - 1)
            {
                var k = BitOperations.TrailingZeroCount(mask);
                (stack[top], enters[top++]) = (_children[(8 * node) + k], lanes[k]);
            }
        }
    }

    /// <summary>The triangles of a block that are met.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private void Test(int block, List<(double, int)>? all, double from, ref double to, ref int found)
    {
        var first = TriangleBlocks.Lanes * block;
        for (var mask = _blocks.Met(block, _start, _direction, out var distances); mask != 0; mask &= mask - 1)
        {
            var lane = BitOperations.TrailingZeroCount(mask);
            var (t, triangle) = (distances.GetElement(lane), _blocks.TriangleAt(first + lane));
            if (t <= from || t > to)
            {
                continue;
            }

            if (all is null)
            {
                if (t < to || (found >= 0 && triangle < found))
                {
                    (to, found) = (t, triangle);
                }
            }
            else if (lane == 0 || triangle != _blocks.TriangleAt(first + lane - 1))
            {
                // A short block repeats its last triangle.
                all.Add((t, triangle));
            }
        }
    }

    /// <summary>Which of eight boxes the ray meets between two distances, a bit each, and where it enters them.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private uint Met(ref float box, double from, double to, out Vector256<float> enter)
    {
        enter = Vector256.Max(Vector256.Max(_x.Enter(ref box), _y.Enter(ref box)), _z.Enter(ref box));
        var leave = Vector256.Min(Vector256.Min(_x.Leave(ref box), _y.Leave(ref box)), _z.Leave(ref box));
        enter -= Rounding * Vector256.Abs(enter);
        leave += Rounding * Vector256.Abs(leave);
        var (least, most) = (Single(from, false), Single(to, true));
        return (Vector256.LessThanOrEqual(enter, leave) & Vector256.GreaterThanOrEqual(leave, Vector256.Create(least))
            & Vector256.LessThanOrEqual(enter, Vector256.Create(most))).ExtractMostSignificantBits();
    }

    /// <summary>A distance in single precision, not above it or not below it.</summary>
    private static float Single(double distance, bool above) => above
        ? float.BitIncrement((float)distance)
        : float.BitDecrement((float)distance);

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

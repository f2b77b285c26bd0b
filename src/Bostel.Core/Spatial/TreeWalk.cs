using System.Numerics;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;

namespace Bostel.Core.Spatial;

/// <summary>What is asked of the triangles of an index. As a structure, so that the compiler makes a walk of its own for each.</summary>
internal interface ITreeQuery
{
    /// <summary>Whether the nearest boxes of a node are visited first: they may spare the others.</summary>
    static abstract bool NearestFirst { get; }

    /// <summary>Which of a node's eight boxes may hold an answer, a bit each, and how near they are.</summary>
    uint Meets(ref float boxes, out Vector256<float> nearness);

    /// <summary>Whether a box of this nearness may still hold a better answer than those found since it was met.</summary>
    bool StillMeets(float nearness);

    /// <summary>Looks at a block of triangles; false ends the walk.</summary>
    /// <param name="place">Of the block's box: 8·node + child.</param>
    bool Look(int block, int place);
}

/// <summary>
/// The one walk through the nodes of <see cref="TriangleTree"/>, eight children each: 48 box bounds (least x, y, z, greatest x, y, z of
/// eight children) and eight children a node, a child being a node, a block of triangles or none.
/// </summary>
internal readonly struct TreeWalk(float[] boxes, int[] children)
{
    /// <summary>A child that is not there.</summary>
    public const int None = -1;

    /// <summary>
    /// Room for the boxes still to visit: seven a level of a tree that is at most <see cref="TriangleTreeBuilder"/>'s depth.
    /// </summary>
    public const int StackSize = 256;

    /// <summary>The child that stands for a block of triangles, and back.</summary>
    public static int Leaf(int block) => -2 - block;

    private static int BlockOf(int child) => -2 - child;

    /// <summary>A coordinate of a child's box.</summary>
    /// <param name="place">8·node + child.</param>
    /// <param name="bound">0 to 5: least x, y, z, greatest x, y, z.</param>
    public float Bound(int place, int bound) => boxes[(48 * (place / 8)) + (8 * bound) + (place % 8)];

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    [SkipLocalsInit]
    public void Visit<TQuery>(ref TQuery query)
        where TQuery : struct, ITreeQuery, allows ref struct
    {
        Span<int> places = stackalloc int[StackSize];
        Span<float> nearness = stackalloc float[StackSize];
        Span<float> lanes = stackalloc float[8];
        ref var box = ref MemoryMarshal.GetArrayDataReference(boxes);
        var below = children;
        var (top, node) = (0, 0);
        while (true)
        {
            var mask = query.Meets(ref Unsafe.Add(ref box, 48 * node), out var near);
            near.CopyTo(lanes);
            for (var floor = top; mask != 0; mask &= mask - 1)
            {
                var k = BitOperations.TrailingZeroCount(mask);

                // Insertion keeps the nearest child on top of the stack.
                var at = top++;
                var distance = lanes[k];
                while (TQuery.NearestFirst && at > floor && nearness[at - 1] < distance)
                {
                    (nearness[at], places[at]) = (nearness[at - 1], places[at - 1]);
                    at--;
                }

                (nearness[at], places[at]) = (distance, (8 * node) + k);
            }

            do
            {
                do
                {
                    if (top == 0)
                    {
                        return;
                    }
                }
                while (!query.StillMeets(nearness[--top]));

                node = below[places[top]];
                if (node < 0 && !query.Look(BlockOf(node), places[top]))
                {
                    return;
                }
            }
            while (node < 0);
        }
    }
}

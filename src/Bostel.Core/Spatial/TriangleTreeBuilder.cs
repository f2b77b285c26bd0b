using System.Runtime.CompilerServices;
using System.Runtime.Intrinsics;
using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Spatial;

/// <summary>
/// Builds an 8-wide bounding-volume hierarchy from the top down: a range of triangles is halved by the binned surface-area heuristic (Wald
/// 2007), the half of the largest surface first, until the node has eight children (Wald, Benthin and Boulos 2008). Boxes are single
/// precision, rounded outward, relative to a local origin. The boxes themselves are sorted, not references to them, so every pass reads
/// memory in order.
/// </summary>
internal sealed class TriangleTreeBuilder
{
    public const int LeafSize = 4;
    private const int Width = 8;
    private const int Bins = 12;

    /// <summary>Up to this many triangles are sorted and every split into full leaves is tried.</summary>
    private const int SortedUpTo = 16;

    /// <summary>From this depth on ranges are halved by count: no input makes the tree deeper than a search has room for.</summary>
    private const int Deep = 20;

    /// <summary>Ranges up to this size are built by one thread.</summary>
    private const int Alone = 16_384;

    private readonly Item[] _items;

    /// <summary>
    /// Box of a triangle: low corner and high corner. The fourth lane of the low one holds the bits of the triangle's number.
    /// </summary>
    private struct Item
    {
        public Vector128<float> Low;
        public Vector128<float> High;

        /// <summary>Twice the centre.</summary>
        public readonly Vector128<float> Middle => Low + High;
    }

    /// <summary>A range of items, its box and the box of (twice) its centres.</summary>
    private struct Range
    {
        public int Start, Count;
        public Item Box, Middles;
    }

    /// <summary>Nodes under construction: 48 box floats, 8 children and 8 leaf counts each.</summary>
    private sealed class Nodes
    {
        public readonly List<float> Boxes = [];
        public readonly List<int> Children = [];
        public readonly List<byte> Counts = [];

        public int Count => Children.Count / Width;

        /// <summary>Adds the nodes of a subtree; returns the number of its root.</summary>
        public int Append(Nodes sub)
        {
            var at = Count;
            Boxes.AddRange(sub.Boxes);
            Counts.AddRange(sub.Counts);
            for (var i = 0; i < sub.Children.Count; i++)
            {
                Children.Add(sub.Children[i] >= 0 && sub.Counts[i] == 0 ? sub.Children[i] + at : sub.Children[i]);
            }

            return at;
        }
    }

    /// <param name="mesh">At least one triangle.</param>
    /// <param name="origin">Boxes are relative to it.</param>
    /// <param name="inflate">Added to the boxes on all sides, mm.</param>
    public TriangleTreeBuilder(TriangleMesh mesh, Vector3D origin, float inflate)
    {
        _items = new Item[mesh.TriangleCount];
        var margin = Vector128.Create(inflate, inflate, inflate, 0);
        Parallel.For(0, (_items.Length + Alone - 1) / Alone, chunk =>
        {
            for (var t = chunk * Alone; t < Math.Min(_items.Length, (chunk + 1) * Alone); t++)
            {
                var (a, b, c) = mesh.Triangle(t);
                var (p, q, r) = (Single(a - origin), Single(b - origin), Single(c - origin));

                // Rounding is monotonic: the rounded extreme is the extreme of the rounded, at most half an ulp inside; the neighbour
                // covers it.
                var low = Outward(Vector128.Min(Vector128.Min(p, q), r) - margin, float.NegativeInfinity);
                var high = Outward(Vector128.Max(Vector128.Max(p, q), r) + margin, float.PositiveInfinity);
                _items[t] = new() { Low = low.WithElement(3, BitConverter.Int32BitsToSingle(t)), High = high };
            }
        });
    }

    /// <summary>
    /// Per node 48 box floats (x0[8] y0[8] z0[8] x1[8] y1[8] z1[8]) and 8 children (a node, <see cref="TreeWalk.Leaf"/> of a block of
    /// triangles, or none); and the triangles of the blocks, <see cref="LeafSize"/> each. A block of fewer repeats its last.
    /// </summary>
    public (float[] Boxes, int[] Children, int[] Blocks) Build()
    {
        var nodes = new Nodes();
        Node(Measured(0, _items.Length), 0, nodes);
        var blocks = new int[LeafSize * nodes.Counts.Count(c => c > 0)];
        var next = 0;
        for (var slot = 0; slot < nodes.Counts.Count; slot++)
        {
            if (nodes.Counts[slot] == 0)
            {
                continue;
            }

            var (start, count) = (nodes.Children[slot], nodes.Counts[slot]);
            nodes.Children[slot] = TreeWalk.Leaf(next / LeafSize);
            for (var k = 0; k < LeafSize; k++)
            {
                blocks[next++] = BitConverter.SingleToInt32Bits(_items[start + Math.Min(k, count - 1)].Low.GetElement(3));
            }
        }

        return ([.. nodes.Boxes], [.. nodes.Children], blocks);
    }

    private static Vector128<float> Single(Vector3D v) => Vector128.Create((float)v.X, (float)v.Y, (float)v.Z, 0);

    /// <summary>The next value down or up, lane by lane.</summary>
    private static Vector128<float> Outward(Vector128<float> v, float toward) => toward < 0
        ? Vector128.Create(MathF.BitDecrement(v.GetElement(0)), MathF.BitDecrement(v.GetElement(1)), MathF.BitDecrement(v.GetElement(2)), 0)
        : Vector128.Create(
            MathF.BitIncrement(v.GetElement(0)), MathF.BitIncrement(v.GetElement(1)), MathF.BitIncrement(v.GetElement(2)), 0);

    private static Item Nothing =>
        new() { Low = Vector128.Create(float.PositiveInfinity), High = Vector128.Create(float.NegativeInfinity) };

    private static float HalfArea(in Item box)
    {
        var size = box.High - box.Low;
        var (x, y, z) = (size.GetElement(0), size.GetElement(1), size.GetElement(2));
        return x < 0 ? 0 : (x * y) + (y * z) + (z * x);
    }

    /// <summary>The lower (upper) value of each lane; plain comparison suffices, no box holds a value that is not a number.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static void Include(ref Item box, Vector128<float> low, Vector128<float> high)
    {
        box.Low = Vector128.MinNative(box.Low, low);
        box.High = Vector128.MaxNative(box.High, high);
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private Range Measured(int start, int count)
    {
        var range = new Range { Start = start, Count = count, Box = Nothing, Middles = Nothing };
        foreach (ref readonly var item in _items.AsSpan(start, count))
        {
            Include(ref range.Box, item.Low, item.High);
            Include(ref range.Middles, item.Middle, item.Middle);
        }

        return range;
    }

    /// <summary>
    /// Adds the node over a range and all below it; returns its number. Large children are built at the same time and appended in order.
    /// </summary>
    private int Node(in Range whole, int depth, Nodes nodes)
    {
        var members = new Range[Width];
        var count = Open(whole, depth >= Deep, members);
        var node = nodes.Count;
        for (var axis = 0; axis < 6; axis++)
        {
            for (var k = 0; k < Width; k++)
            {
                nodes.Boxes.Add(k >= count ? (axis < 3 ? float.PositiveInfinity : float.NegativeInfinity) : axis < 3
                    ? members[k].Box.Low.GetElement(axis)
                    : members[k].Box.High.GetElement(axis - 3));
            }
        }

        for (var k = 0; k < Width; k++)
        {
            var leaf = k < count && members[k].Count <= LeafSize;
            nodes.Children.Add(leaf ? members[k].Start : TreeWalk.None);
            nodes.Counts.Add(leaf ? (byte)members[k].Count : (byte)0);
        }

        if (whole.Count <= Alone)
        {
            for (var k = 0; k < count; k++)
            {
                if (members[k].Count > LeafSize)
                {
                    nodes.Children[(Width * node) + k] = Node(members[k], depth + 1, nodes);
                }
            }

            return node;
        }

        var below = new Nodes?[count];
        Parallel.For(0, count, k =>
        {
            if (members[k].Count > LeafSize)
            {
                below[k] = new();
                Node(members[k], depth + 1, below[k]!);
            }
        });
        for (var k = 0; k < count; k++)
        {
            if (below[k] is { } sub)
            {
                nodes.Children[(Width * node) + k] = nodes.Append(sub);
            }
        }

        return node;
    }

    /// <summary>Splits a range into up to eight; returns how many.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private int Open(in Range whole, bool byCount, Range[] members)
    {
        members[0] = whole;
        var count = 1;
        while (count < Width)
        {
            var widest = -1;
            var area = -1f;
            for (var k = 0; k < count; k++)
            {
                if (members[k].Count > LeafSize && HalfArea(members[k].Box) is var half && half > area)
                {
                    (area, widest) = (half, k);
                }
            }

            if (widest < 0)
            {
                break;
            }

            (members[widest], members[count++]) = Halve(members[widest], byCount);
        }

        return count;
    }

    private (Range Left, Range Right) Halve(in Range range, bool byCount)
    {
        var size = range.Middles.High - range.Middles.Low;
        var (x, y, z) = (size.GetElement(0), size.GetElement(1), size.GetElement(2));
        var axis = x >= y && x >= z ? 0 : y >= z ? 1 : 2;
        if (range.Count <= SortedUpTo)
        {
            return Sweep(range, axis);
        }

        var extent = Math.Max(x, Math.Max(y, z));
        var low = range.Middles.Low.GetElement(axis);
        var scale = Bins * 0.9999f / extent;
        if (!byCount && extent > 0 && float.IsFinite(scale))
        {
            Span<Item> boxes = stackalloc Item[Bins];
            Span<int> counts = stackalloc int[Bins];
            Bin(range, axis, low, scale, boxes, counts);
            var best = Cheapest(boxes, counts, range.Count);
            if (best >= 0)
            {
                return Partition(range, axis, low, scale, best);
            }
        }

        var half = range.Count / 2;
        return (Measured(range.Start, half), Measured(range.Start + half, range.Count - half));
    }

    /// <summary>Sorts a few triangles along an axis and takes the cheapest of the splits that leave full leaves on the left.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private (Range Left, Range Right) Sweep(in Range range, int axis)
    {
        var items = _items.AsSpan(range.Start, range.Count);
        for (var i = 1; i < items.Length; i++)
        {
            var item = items[i];
            var key = Middle(item, axis);
            var at = i;
            for (; at > 0 && Middle(items[at - 1], axis) > key; at--)
            {
                items[at] = items[at - 1];
            }

            items[at] = item;
        }

        Span<float> right = stackalloc float[SortedUpTo];
        var sweep = Nothing;
        for (var i = items.Length - 1; i > 0; i--)
        {
            Include(ref sweep, items[i].Low, items[i].High);
            right[i] = (items.Length - i) * HalfArea(sweep);
        }

        sweep = Nothing;
        var (best, least) = (LeafSize, float.PositiveInfinity);
        for (var i = 0; i < items.Length - 1; i++)
        {
            Include(ref sweep, items[i].Low, items[i].High);
            var cost = ((i + 1) * HalfArea(sweep)) + right[i + 1];
            if ((i + 1) % LeafSize == 0 && cost < least)
            {
                (least, best) = (cost, i + 1);
            }
        }

        return (Measured(range.Start, best), Measured(range.Start + best, range.Count - best));
    }

    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private void Bin(in Range range, int axis, float low, float scale, Span<Item> boxes, Span<int> counts)
    {
        boxes.Fill(Nothing);
        counts.Clear();
        foreach (ref readonly var item in _items.AsSpan(range.Start, range.Count))
        {
            var b = (int)((Middle(item, axis) - low) * scale);
            counts[b]++;
            Include(ref boxes[b], item.Low, item.High);
        }
    }

    /// <summary>The last bin of the left half for which areas times counts are least; −1 when all lie in one bin.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private static int Cheapest(ReadOnlySpan<Item> boxes, ReadOnlySpan<int> counts, int total)
    {
        Span<float> right = stackalloc float[Bins];
        var sweep = Nothing;
        var sum = 0;
        for (var b = boxes.Length - 1; b > 0; b--)
        {
            Include(ref sweep, boxes[b].Low, boxes[b].High);
            sum += counts[b];
            right[b] = sum * HalfArea(sweep);
        }

        sweep = Nothing;
        sum = 0;
        var best = -1;
        var least = float.PositiveInfinity;
        for (var b = 0; b < boxes.Length - 1; b++)
        {
            Include(ref sweep, boxes[b].Low, boxes[b].High);
            sum += counts[b];
            var cost = (sum * HalfArea(sweep)) + right[b + 1];
            if (sum > 0 && sum < total && cost < least)
            {
                (least, best) = (cost, b);
            }
        }

        return best;
    }

    /// <summary>Moves what lies in the bins up to <paramref name="best"/> to the front, and measures both halves on the way.</summary>
    [MethodImpl(MethodImplOptions.AggressiveOptimization)]
    private (Range Left, Range Right) Partition(in Range range, int axis, float low, float scale, int best)
    {
        var (left, right) =
            (new Range { Start = range.Start, Box = Nothing, Middles = Nothing }, new Range { Box = Nothing, Middles = Nothing });
        var items = _items.AsSpan();
        var (i, j) = (range.Start, range.Start + range.Count - 1);
        while (i <= j)
        {
            var item = items[i];
            if ((int)((Middle(item, axis) - low) * scale) <= best)
            {
                Include(ref left.Box, item.Low, item.High);
                Include(ref left.Middles, item.Middle, item.Middle);
                i++;
                continue;
            }

            Include(ref right.Box, item.Low, item.High);
            Include(ref right.Middles, item.Middle, item.Middle);
            items[i] = items[j];
            items[j--] = item;
        }

        (left.Count, right.Start, right.Count) = (i - range.Start, i, range.Start + range.Count - i);
        return (left, right);
    }

    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    private static float Middle(in Item item, int axis) =>
        Unsafe.Add(ref Unsafe.As<Item, float>(ref Unsafe.AsRef(in item)), axis)
            + Unsafe.Add(ref Unsafe.As<Item, float>(ref Unsafe.AsRef(in item)), axis + 4);
}

using Bostel.Core.Geometry;

namespace Bostel.Core.Spatial;

/// <summary>
/// Builds an 8-wide bounding-volume hierarchy: a binary tree by binned surface-area heuristic (Wald 2007), collapsed to eight children a
/// node (Wald, Benthin and Boulos 2008). Boxes are single precision, rounded outward, relative to a local origin.
/// </summary>
internal sealed class TriangleTreeBuilder
{
    private const int Bins = 12;
    public const int LeafSize = 4;

    /// <summary>Ranges up to this size are split by one thread.</summary>
    private const int Alone = 16_384;

    private readonly float[] _boxes;
    private readonly float[] _centers;
    public readonly int[] Order;
    private List<Node> _nodes = [];

    private struct Node
    {
        public Box8 Box;
        public int Left, Right, Start, Count;
    }

    internal struct Box8
    {
        public float X0, Y0, Z0, X1, Y1, Z1;

        public static Box8 Empty => new()
        {
            X0 = float.PositiveInfinity,
            Y0 = float.PositiveInfinity,
            Z0 = float.PositiveInfinity,
            X1 = float.NegativeInfinity,
            Y1 = float.NegativeInfinity,
            Z1 = float.NegativeInfinity,
        };

        public void Add(in Box8 b)
        {
            X0 = MathF.Min(X0, b.X0);
            Y0 = MathF.Min(Y0, b.Y0);
            Z0 = MathF.Min(Z0, b.Z0);
            X1 = MathF.Max(X1, b.X1);
            Y1 = MathF.Max(Y1, b.Y1);
            Z1 = MathF.Max(Z1, b.Z1);
        }

        public readonly float HalfArea()
        {
            var x = X1 - X0;
            var y = Y1 - Y0;
            var z = Z1 - Z0;
            return x < 0 ? 0 : (x * y) + (y * z) + (z * x);
        }
    }

    public TriangleTreeBuilder(double[] corners, float inflate)
    {
        var n = corners.Length / 9;
        _boxes = new float[6 * n];
        _centers = new float[3 * n];
        Order = new int[n];
        for (var t = 0; t < n; t++)
        {
            Order[t] = t;
            for (var k = 0; k < 3; k++)
            {
                var lo = Math.Min(corners[(9 * t) + k], Math.Min(corners[(9 * t) + 3 + k], corners[(9 * t) + 6 + k]));
                var hi = Math.Max(corners[(9 * t) + k], Math.Max(corners[(9 * t) + 3 + k], corners[(9 * t) + 6 + k]));
                _boxes[(6 * t) + k] = MathF.BitDecrement((float)lo - inflate);
                _boxes[(6 * t) + 3 + k] = MathF.BitIncrement((float)hi + inflate);
                _centers[(3 * t) + k] = (float)(0.5 * (lo + hi));
            }
        }
    }

    /// <summary>Returns per node 48 box floats (x0[8] y0[8] z0[8] x1[8] y1[8] z1[8]), 8 children and 8 leaf counts (0: inner or empty).</summary>
    public (float[] Boxes, int[] Children, byte[] Counts) Build()
    {
        _nodes = Split(0, Order.Length);
        return Collapse();
    }

    private Box8 BoxOf(int t) => new()
    {
        X0 = _boxes[6 * t],
        Y0 = _boxes[(6 * t) + 1],
        Z0 = _boxes[(6 * t) + 2],
        X1 = _boxes[(6 * t) + 3],
        Y1 = _boxes[(6 * t) + 4],
        Z1 = _boxes[(6 * t) + 5],
    };

    /// <summary>
    /// The nodes over a range of triangles, the root first, then those of its left and of its right half: numbers are those within the list. Large halves are
    /// split at the same time; the result is the same whatever the number of threads.
    /// </summary>
    private List<Node> Split(int start, int count)
    {
        if (count <= Alone)
        {
            var nodes = new List<Node>(count);
            Split(start, count, nodes);
            return nodes;
        }

        var (box, centers) = Measure(start, count);
        var middle = Partition(start, count, centers);
        List<Node> left = [], right = [];
        Parallel.Invoke(() => left = Split(start, middle - start), () => right = Split(middle, start + count - middle));
        var all = new List<Node>(1 + left.Count + right.Count) { new() { Box = box, Left = 1, Right = 1 + left.Count, Start = start, Count = count } };
        Append(all, left, 1);
        Append(all, right, 1 + left.Count);
        return all;
    }

    private static void Append(List<Node> all, List<Node> half, int offset)
    {
        foreach (var node in half)
        {
            all.Add(node.Left < 0 ? node : node with { Left = node.Left + offset, Right = node.Right + offset });
        }
    }

    private (Box8 Box, Box8 Centers) Measure(int start, int count)
    {
        var box = Box8.Empty;
        var centers = Box8.Empty;
        for (var i = start; i < start + count; i++)
        {
            var t = Order[i];
            box.Add(BoxOf(t));
            var (x, y, z) = (_centers[3 * t], _centers[(3 * t) + 1], _centers[(3 * t) + 2]);
            centers.Add(new() { X0 = x, Y0 = y, Z0 = z, X1 = x, Y1 = y, Z1 = z });
        }

        return (box, centers);
    }

    private int Split(int start, int count, List<Node> nodes)
    {
        var (box, centers) = Measure(start, count);
        var id = nodes.Count;
        nodes.Add(new() { Box = box, Left = -1, Right = -1, Start = start, Count = count });
        if (count <= LeafSize)
        {
            return id;
        }

        var middle = Partition(start, count, centers);
        var left = Split(start, middle - start, nodes);
        var right = Split(middle, start + count - middle, nodes);
        nodes[id] = nodes[id] with { Left = left, Right = right };
        return id;
    }

    private int Partition(int start, int count, in Box8 centers)
    {
        var (axis, low, extent) = LongestAxis(centers);
        if (extent <= 0)
        {
            return start + (count / 2);
        }

        Span<Box8> boxes = stackalloc Box8[Bins];
        Span<int> counts = stackalloc int[Bins];
        counts.Clear();
        boxes.Fill(Box8.Empty);
        var scale = Bins * 0.9999f / extent;
        for (var i = start; i < start + count; i++)
        {
            var b = (int)((_centers[(3 * Order[i]) + axis] - low) * scale);
            counts[b]++;
            boxes[b].Add(BoxOf(Order[i]));
        }

        Span<float> rightCost = stackalloc float[Bins];
        var sweep = Box8.Empty;
        var sum = 0;
        for (var b = Bins - 1; b > 0; b--)
        {
            sweep.Add(boxes[b]);
            sum += counts[b];
            rightCost[b] = sum * sweep.HalfArea();
        }

        sweep = Box8.Empty;
        sum = 0;
        var best = -1;
        var bestCost = float.PositiveInfinity;
        for (var b = 0; b < Bins - 1; b++)
        {
            sweep.Add(boxes[b]);
            sum += counts[b];
            var cost = (sum * sweep.HalfArea()) + rightCost[b + 1];
            if (sum > 0 && sum < count && cost < bestCost)
            {
                bestCost = cost;
                best = b;
            }
        }

        if (best < 0)
        {
            return start + (count / 2);
        }

        var left = start;
        var right = start + count - 1;
        while (left <= right)
        {
            if ((int)((_centers[(3 * Order[left]) + axis] - low) * scale) <= best)
            {
                left++;
            }
            else
            {
                (Order[left], Order[right]) = (Order[right], Order[left]);
                right--;
            }
        }

        return left;
    }

    private static (int Axis, float Low, float Extent) LongestAxis(in Box8 b)
    {
        var x = b.X1 - b.X0;
        var y = b.Y1 - b.Y0;
        var z = b.Z1 - b.Z0;
        return x >= y && x >= z ? (0, b.X0, x) : y >= z ? (1, b.Y0, y) : (2, b.Z0, z);
    }

    private (float[] Boxes, int[] Children, byte[] Counts) Collapse()
    {
        var boxes = new List<float>();
        var children = new List<int>();
        var counts = new List<byte>();
        var work = new Queue<(int Binary, int Slot)>();
        work.Enqueue((0, -1));
        while (work.TryDequeue(out var item))
        {
            var wide = children.Count / 8;
            if (item.Slot >= 0)
            {
                children[item.Slot] = wide;
            }

            var members = Open(item.Binary);
            for (var axis = 0; axis < 6; axis++)
            {
                for (var k = 0; k < 8; k++)
                {
                    boxes.Add(k < members.Count ? Component(_nodes[members[k]].Box, axis) : axis < 3 ? float.PositiveInfinity : float.NegativeInfinity);
                }
            }

            for (var k = 0; k < 8; k++)
            {
                var leaf = k < members.Count && _nodes[members[k]].Left < 0;
                children.Add(k < members.Count ? _nodes[members[k]].Start : -1);
                counts.Add(leaf ? (byte)_nodes[members[k]].Count : (byte)0);
                if (k < members.Count && !leaf)
                {
                    work.Enqueue((members[k], (8 * wide) + k));
                }
            }
        }

        return ([.. boxes], [.. children], [.. counts]);
    }

    private List<int> Open(int binary)
    {
        var members = new List<int>(8) { binary };
        while (members.Count < 8)
        {
            var widest = -1;
            var area = -1f;
            for (var k = 0; k < members.Count; k++)
            {
                var node = _nodes[members[k]];
                if (node.Left >= 0 && node.Box.HalfArea() > area)
                {
                    area = node.Box.HalfArea();
                    widest = k;
                }
            }

            if (widest < 0)
            {
                break;
            }

            var opened = _nodes[members[widest]];
            members[widest] = opened.Left;
            members.Add(opened.Right);
        }

        return members;
    }

    private static float Component(in Box8 b, int axis) => axis switch { 0 => b.X0, 1 => b.Y0, 2 => b.Z0, 3 => b.X1, 4 => b.Y1, _ => b.Z1 };
}

using Bostel.Core.Geometry;

namespace Bostel.Core.Spatial;

/// <summary>A ray through the boxes of an index. Start and direction are relative to the index's origin.</summary>
internal readonly struct RayWalk(float[] boxes, int[] children, TriangleBlocks blocks, Vector3D start, Vector3D direction)
{
    /// <summary>
    /// The first triangle beyond <paramref name="from"/> and before <paramref name="to"/>, which becomes its distance; −1 when there is
    /// none.
    /// </summary>
    public int First(double from, ref double to)
    {
        var found = -1;
        Walk(null, from, ref to, ref found);
        return found;
    }

    public void All(List<(double, int)> hits)
    {
        var to = double.PositiveInfinity;
        var found = -1;
        Walk(hits, double.NegativeInfinity, ref to, ref found);
    }

    private void Walk(List<(double, int)>? all, double from, ref double to, ref int found)
    {
        Span<int> stack = stackalloc int[TriangleTree.StackSize];
        var top = 0;
        stack[top++] = 0;
        while (top > 0)
        {
            var node = stack[--top];
            for (var slot = 8 * node; slot < (8 * node) + 8; slot++)
            {
                var child = children[slot];
                if (child == TriangleTree.None || !Meets(node, slot - (8 * node), from, to))
                {
                    continue;
                }

                if (child >= 0)
                {
                    stack[top++] = child;
                    continue;
                }

                var first = TriangleBlocks.Lanes * TriangleTree.BlockOf(child);
                for (var place = first; place < first + TriangleBlocks.Lanes; place++)
                {
                    // A short block repeats its last triangle.
                    if ((place > first && blocks.TriangleAt(place) == blocks.TriangleAt(place - 1)) || !Intersect(place, out var t)
                        || t <= from || t >= to)
                    {
                        continue;
                    }

                    if (all is null)
                    {
                        to = t;
                        found = blocks.TriangleAt(place);
                    }
                    else
                    {
                        all.Add((t, blocks.TriangleAt(place)));
                    }
                }
            }
        }
    }

    private bool Meets(int node, int k, double from, double to)
    {
        for (var axis = 0; axis < 3; axis++)
        {
            var lo = boxes[(48 * node) + (8 * axis) + k];
            var hi = boxes[(48 * node) + 24 + (8 * axis) + k];
            var d = direction[axis];
            var s = start[axis];
            if (Math.Abs(d) < 1e-300)
            {
                if (s < lo || s > hi)
                {
                    return false;
                }

                continue;
            }

            var t0 = (lo - s) / d;
            var t1 = (hi - s) / d;
            from = Math.Max(from, Math.Min(t0, t1));
            to = Math.Min(to, Math.Max(t0, t1));
        }

        return from <= to;
    }

    /// <summary>Möller and Trumbore 1997, both sides.</summary>
    private bool Intersect(int place, out double t)
    {
        var (a, b, c) = blocks.Corners(place);
        var (e1, e2) = (b - a, c - a);
        var h = direction.Cross(e2);
        var det = e1.Dot(h);
        t = 0;
        if (det == 0)
        {
            return false;
        }

        var s = start - a;
        var u = s.Dot(h) / det;
        var q = s.Cross(e1);
        var v = direction.Dot(q) / det;
        t = e2.Dot(q) / det;
        return u >= 0 && v >= 0 && u + v <= 1;
    }
}

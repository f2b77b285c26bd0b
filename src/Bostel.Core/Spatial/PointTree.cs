using Bostel.Core.Geometry;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Spatial;

/// <summary>A balanced k-d tree over points, stored implicitly in one permutation (Bentley 1975). Safe for concurrent reading.</summary>
public sealed class PointTree
{
    private const int LeafSize = 12;
    private readonly double[] _points;
    private readonly int[] _order;
    private readonly byte[] _axes;

    /// <param name="coordinates">3·N doubles; shared, not copied.</param>
    public PointTree(double[] coordinates)
    {
        _points = coordinates;
        _order = new int[coordinates.Length / 3];
        _axes = new byte[_order.Length];
        for (var i = 0; i < _order.Length; i++)
        {
            _order[i] = i;
        }

        Build(0, _order.Length);
    }

    /// <summary>Collects the numbers of all points within a radius, in no particular but reproducible order.</summary>
    public void Within(Vector3D center, double radius, List<int> found)
    {
        found.Clear();
        Within(0, _order.Length, center, radius, found);
    }

    /// <summary>The nearest point within a distance, or −1.</summary>
    public int Nearest(Vector3D center, double maxDistance = double.PositiveInfinity)
    {
        var best = -1;
        var limit = maxDistance * maxDistance;
        Nearest(0, _order.Length, center, ref best, ref limit);
        return best;
    }

    private Vector3D At(int i) => Vector3D.At(_points, i);

    private int AxisOf(int start, int count)
    {
        var box = Box3D.Empty;
        var step = Math.Max(1, count / 64);
        for (var i = start; i < start + count; i += step)
        {
            box = box.Include(At(_order[i]));
        }

        var s = box.Size;
        return s.X >= s.Y && s.X >= s.Z ? 0 : s.Y >= s.Z ? 1 : 2;
    }

    private void Build(int start, int count)
    {
        if (count <= LeafSize)
        {
            return;
        }

        var axis = AxisOf(start, count);
        var middle = start + (count / 2);
        _axes[middle] = (byte)axis;
        Select(start, start + count - 1, middle, axis);
        Build(start, middle - start);
        Build(middle + 1, start + count - middle - 1);
    }

    private double Key(int place, int axis) => _points[(3 * _order[place]) + axis];

    /// <summary>Quickselect (Hoare 1961): puts the k-th smallest at place k.</summary>
    private void Select(int low, int high, int k, int axis)
    {
        while (low < high)
        {
            var pivot = Key((low + high) >> 1, axis);
            var i = low;
            var j = high;
            while (i <= j)
            {
                while (Key(i, axis) < pivot)
                {
                    i++;
                }

                while (Key(j, axis) > pivot)
                {
                    j--;
                }

                if (i <= j)
                {
                    (_order[i], _order[j]) = (_order[j], _order[i]);
                    i++;
                    j--;
                }
            }

            if (k <= j)
            {
                high = j;
            }
            else if (k >= i)
            {
                low = i;
            }
            else
            {
                return;
            }
        }
    }

    private void Within(int start, int count, Vector3D c, double radius, List<int> found)
    {
        if (count <= LeafSize)
        {
            for (var i = start; i < start + count; i++)
            {
                AddIfNear(_order[i], c, radius, found);
            }

            return;
        }

        var middle = start + (count / 2);
        var axis = _axes[middle];
        var gap = c[axis] - Key(middle, axis);
        AddIfNear(_order[middle], c, radius, found);
        if (gap <= radius)
        {
            Within(start, middle - start, c, radius, found);
        }

        if (gap >= -radius)
        {
            Within(middle + 1, start + count - middle - 1, c, radius, found);
        }
    }

    private void AddIfNear(int i, Vector3D c, double radius, List<int> found)
    {
        if ((At(i) - c).LengthSquared <= radius * radius)
        {
            found.Add(i);
        }
    }

    private void Nearest(int start, int count, Vector3D c, ref int best, ref double limit)
    {
        if (count <= LeafSize)
        {
            for (var i = start; i < start + count; i++)
            {
                Consider(_order[i], c, ref best, ref limit);
            }

            return;
        }

        var middle = start + (count / 2);
        var axis = _axes[middle];
        var gap = c[axis] - Key(middle, axis);
        Consider(_order[middle], c, ref best, ref limit);
        var (near, far) = gap <= 0
            ? ((start, middle - start), (middle + 1, start + count - middle - 1))
            : ((middle + 1, start + count - middle - 1), (start, middle - start));
        Nearest(near.Item1, near.Item2, c, ref best, ref limit);
        if (gap * gap <= limit)
        {
            Nearest(far.Item1, far.Item2, c, ref best, ref limit);
        }
    }

    private void Consider(int i, Vector3D c, ref int best, ref double limit)
    {
        var d2 = (At(i) - c).LengthSquared;
        if (d2 < limit || (d2 == limit && (best < 0 || i < best)))
        {
            limit = d2;
            best = i;
        }
    }
}

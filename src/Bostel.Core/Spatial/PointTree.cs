using Bostel.Core.Geometry;

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

    /// <summary>The nearest point within a distance, or −1; of equally near ones the one with the lowest number.</summary>
    public int Nearest(Vector3D center, double maxDistance = double.PositiveInfinity)
    {
        Span<int> found = stackalloc int[1];
        Span<double> squares = stackalloc double[1];
        return Nearest(center, found, squares, maxDistance) == 1 ? found[0] : -1;
    }

    /// <summary>
    /// The k nearest points, nearest first; of equally near ones the one with the lower number is first. A branch is left out when the box
    /// it lies in is farther than the k-th nearest so far, by the gaps along all three axes together (Arya and Mount, Algorithms for fast
    /// vector quantization, 1993).
    /// </summary>
    /// <param name="center">Where from; a point of the tree there is among those found.</param>
    /// <param name="found">Numbers of the points; its length is k.</param>
    /// <param name="squares">Their squared distances, mm²; of the same length.</param>
    /// <param name="maxDistance">Points farther than this are not found, mm.</param>
    /// <returns>How many were found: k, or fewer where the tree or the distance holds no more.</returns>
    public int Nearest(Vector3D center, Span<int> found, Span<double> squares, double maxDistance = double.PositiveInfinity)
    {
        var best = new NearestFound(found, squares, maxDistance * maxDistance);
        if (found.Length > 0)
        {
            Nearest(0, _order.Length, center, Vector3D.Zero, ref best);
        }

        return best.Count;
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

    /// <param name="gaps">Along each axis, how far the centre lies from the box of this range.</param>
    private void Nearest(int start, int count, Vector3D c, Vector3D gaps, ref NearestFound best)
    {
        if (count <= LeafSize)
        {
            for (var i = start; i < start + count; i++)
            {
                best.Consider(_order[i], (At(_order[i]) - c).LengthSquared);
            }

            return;
        }

        var middle = start + (count / 2);
        var axis = _axes[middle];
        var gap = c[axis] - Key(middle, axis);
        best.Consider(_order[middle], (At(_order[middle]) - c).LengthSquared);
        var (low, high) = ((start, middle - start), (middle + 1, start + count - middle - 1));
        var (near, far) = gap <= 0 ? (low, high) : (high, low);
        Nearest(near.Item1, near.Item2, c, gaps, ref best);
        var beyond = axis switch { 0 => gaps with { X = gap }, 1 => gaps with { Y = gap }, _ => gaps with { Z = gap } };
        if (beyond.LengthSquared <= best.Limit)
        {
            Nearest(far.Item1, far.Item2, c, beyond, ref best);
        }
    }

    /// <summary>The nearest so far, in order; few enough that inserting beats a heap.</summary>
    private ref struct NearestFound(Span<int> found, Span<double> squares, double limit)
    {
        private readonly Span<int> _found = found;
        private readonly Span<double> _squares = squares;

        public int Count { get; private set; }

        /// <summary>Squared distance beyond which nothing is taken any more.</summary>
        public double Limit { get; private set; } = limit;

        public void Consider(int point, double square)
        {
            if (!(square <= Limit) || (Count == _found.Length && square == Limit && point > _found[^1]))
            {
                return;
            }

            var at = Count < _found.Length ? Count++ : Count - 1;
            for (; at > 0 && (_squares[at - 1] > square || (_squares[at - 1] == square && _found[at - 1] > point)); at--)
            {
                (_squares[at], _found[at]) = (_squares[at - 1], _found[at - 1]);
            }

            (_squares[at], _found[at]) = (square, point);
            if (Count == _found.Length)
            {
                Limit = _squares[^1];
            }
        }
    }
}

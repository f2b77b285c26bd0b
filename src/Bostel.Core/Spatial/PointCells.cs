using System.Runtime.InteropServices;
using Bostel.Core.Geometry;

namespace Bostel.Core.Spatial;

/// <summary>
/// Points in cubes of one size (Bentley, Stanat and Williams, The complexity of finding fixed-radius near neighbors, 1977): where all
/// neighbours of all points are asked for, the cubes around one serve all of its points. Safe for concurrent reading.
/// </summary>
internal sealed class PointCells
{
    private readonly Dictionary<(long, long, long), int> _cells = [];
    private readonly int[] _starts;
    private readonly int[] _order;
    private readonly double _side;

    /// <param name="coordinates">3·N doubles.</param>
    /// <param name="side">Of a cube, in the unit of the points; above 0.</param>
    public PointCells(double[] coordinates, double side)
    {
        _side = side;
        var n = coordinates.Length / 3;
        var cellOf = new int[n];
        for (var i = 0; i < n; i++)
        {
            ref var cell = ref CollectionsMarshal.GetValueRefOrAddDefault(_cells, Key(Vector3D.At(coordinates, i)), out var known);
            cellOf[i] = known ? cell : cell = _cells.Count - 1;
        }

        _starts = new int[_cells.Count + 1];
        foreach (var cell in cellOf)
        {
            _starts[cell + 1]++;
        }

        for (var cell = 0; cell < _cells.Count; cell++)
        {
            _starts[cell + 1] += _starts[cell];
        }

        _order = new int[n];
        var at = _starts[..^1];
        for (var i = 0; i < n; i++)
        {
            _order[at[cellOf[i]]++] = i;
        }
    }

    /// <summary>How many cubes hold a point, numbered in the order of their first points.</summary>
    public int Count => _cells.Count;

    /// <summary>Numbers of the points in a cube, in their order.</summary>
    public ReadOnlySpan<int> In(int cell) => _order.AsSpan(_starts[cell].._starts[cell + 1]);

    /// <summary>
    /// Collects the numbers of all points in the cube that holds a place and in the 26 around it: none nearer than a side is missing.
    /// </summary>
    public void Around(Vector3D place, List<int> found)
    {
        found.Clear();
        var (x, y, z) = Key(place);
        for (var i = -1; i <= 1; i++)
        {
            for (var j = -1; j <= 1; j++)
            {
                for (var k = -1; k <= 1; k++)
                {
                    if (_cells.TryGetValue((x + i, y + j, z + k), out var cell))
                    {
                        found.AddRange(In(cell));
                    }
                }
            }
        }
    }

    private (long, long, long) Key(Vector3D p) =>
        ((long)Math.Floor(p.X / _side), (long)Math.Floor(p.Y / _side), (long)Math.Floor(p.Z / _side));
}

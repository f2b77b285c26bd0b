using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Alignment;

/// <summary>
/// Unsigned distance to the nominal at the cells of a coarse grid around it, for scoring thousands of poses cheaply, and the triangle
/// nearest to each.
/// </summary>
internal sealed class DistanceGrid
{
    private readonly float[] _cells;
    private readonly int[] _nearest;
    private readonly Vector3D _min;
    private readonly double _size;
    private readonly int _nx, _ny, _nz;
    private readonly float _far;

    public DistanceGrid(TriangleTree nominal, int longest)
    {
        var box = nominal.Mesh.Bounds;
        var margin = 0.1 * box.Diagonal;
        var size = box.Size + (2 * margin * new Vector3D(1, 1, 1));
        _size = Math.Max(size.X, Math.Max(size.Y, size.Z)) / longest;
        _min = box.Min - (margin * new Vector3D(1, 1, 1));
        _far = (float)margin;
        (_nx, _ny, _nz) = ((int)Math.Ceiling(size.X / _size), (int)Math.Ceiling(size.Y / _size), (int)Math.Ceiling(size.Z / _size));
        _cells = new float[_nx * _ny * _nz];
        _nearest = new int[_cells.Length];
        Parallel.For(0, _nz, z =>
        {
            for (var y = 0; y < _ny; y++)
            {
                var seed = -1;
                for (var x = 0; x < _nx; x++)
                {
                    var p = _min + (_size * new Vector3D(x + 0.5, y + 0.5, z + 0.5));
                    var hit = nominal.Closest(p, _far, seed);
                    var cell = (((z * _ny) + y) * _nx) + x;
                    _cells[cell] = hit.Found ? (float)Math.Sqrt(hit.DistanceSquared) : _far;
                    _nearest[cell] = seed = hit.Found ? hit.Triangle : -1;
                }
            }
        });
    }

    public double At(Vector3D p) => Cell(p) is var cell and >= 0 ? _cells[cell] : _far;

    /// <summary>A triangle near a point, −1 far outside: a search for the nearest one starts well from it.</summary>
    public int NearestAt(Vector3D p) => Cell(p) is var cell and >= 0 ? _nearest[cell] : -1;

    private int Cell(Vector3D p)
    {
        var q = (p - _min) / _size;
        return q.X < 0 || q.Y < 0 || q.Z < 0 || q.X >= _nx || q.Y >= _ny || q.Z >= _nz
            ? -1
            : ((((int)q.Z * _ny) + (int)q.Y) * _nx) + (int)q.X;
    }
}

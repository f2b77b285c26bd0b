using Bostel.Core.Geometry;

namespace Bostel.Core.Meshes;

/// <summary>Joins points that lie within a small tolerance of an earlier one, by a hash grid of twice that width.</summary>
public sealed class ToleranceWelder(double tolerance)
{
    private readonly Dictionary<(long, long, long), List<int>> _cells = [];
    private readonly List<double> _coordinates = [];

    /// <summary>The number of the first point within the tolerance, or a new one.</summary>
    public int Add(Vector3D p)
    {
        var size = 2 * tolerance;
        for (var corner = 0; corner < 8; corner++)
        {
            var x = (corner & 1) == 0 ? p.X - tolerance : p.X + tolerance;
            var y = (corner & 2) == 0 ? p.Y - tolerance : p.Y + tolerance;
            var z = (corner & 4) == 0 ? p.Z - tolerance : p.Z + tolerance;
            if (_cells.TryGetValue(Cell(x, y, z, size), out var members))
            {
                foreach (var m in members)
                {
                    if ((At(m) - p).Length <= tolerance)
                    {
                        return m;
                    }
                }
            }
        }

        var number = _coordinates.Count / 3;
        _coordinates.AddRange([p.X, p.Y, p.Z]);
        var home = Cell(p.X, p.Y, p.Z, size);
        if (!_cells.TryGetValue(home, out var list))
        {
            _cells[home] = list = [];
        }

        list.Add(number);
        return number;
    }

    public double[] Coordinates() => [.. _coordinates];

    private Vector3D At(int i) => new(_coordinates[3 * i], _coordinates[(3 * i) + 1], _coordinates[(3 * i) + 2]);

    private static (long, long, long) Cell(double x, double y, double z, double size) =>
        ((long)Math.Floor(x / size), (long)Math.Floor(y / size), (long)Math.Floor(z / size));
}

using Bostel.Core.Meshes;

namespace Bostel.Core.Preparation;

/// <summary>Fewer points at an even spacing.</summary>
public static class Thinning
{
    /// <summary>
    /// Keeps each point in turn unless one kept before lies nearer than the spacing (dart throwing in file order over a hash grid): no two
    /// kept points are closer than the spacing, and every dropped one is nearer than it to a kept one.
    /// </summary>
    /// <returns>Whether each vertex is kept.</returns>
    /// <exception cref="BadInputException">The spacing is not above 0.</exception>
    public static bool[] ToSpacing(TriangleMesh cloud, double spacing)
    {
        if (!(spacing > 0))
        {
            throw new BadInputException("spacing: must be above 0 mm.");
        }

        var low = cloud.Bounds.Min;
        var cells = new Dictionary<(int, int, int), List<int>>();
        var kept = new bool[cloud.VertexCount];
        for (var v = 0; v < kept.Length; v++)
        {
            var p = cloud.Vertex(v);
            var (x, y, z) = ((int)((p.X - low.X) / spacing), (int)((p.Y - low.Y) / spacing), (int)((p.Z - low.Z) / spacing));
            if (IsFree(p, x, y, z))
            {
                kept[v] = true;
                if (!cells.TryGetValue((x, y, z), out var cell))
                {
                    cells[(x, y, z)] = cell = [];
                }

                cell.Add(v);
            }
        }

        return kept;

        bool IsFree(Geometry.Vector3D p, int x, int y, int z)
        {
            for (var i = x - 1; i <= x + 1; i++)
            {
                for (var j = y - 1; j <= y + 1; j++)
                {
                    for (var k = z - 1; k <= z + 1; k++)
                    {
                        if (cells.TryGetValue((i, j, k), out var cell)
                            && cell.Exists(n => (cloud.Vertex(n) - p).LengthSquared < spacing * spacing))
                        {
                            return false;
                        }
                    }
                }
            }

            return true;
        }
    }
}

using Bostel.Core.Geometry;

namespace Bostel.Core.Spatial;

/// <summary>Normals of a bare point cloud: the direction of least scatter among the neighbours (Hoppe et al. 1992).</summary>
public static class CloudNormals
{
    /// <summary>One unit normal a point (the sense is arbitrary), and the mean spacing of the points.</summary>
    public static Vector3D[] Estimate(Vector3D[] points, out double spacing)
    {
        var coordinates = new double[3 * points.Length];
        for (var i = 0; i < points.Length; i++)
        {
            (coordinates[3 * i], coordinates[(3 * i) + 1], coordinates[(3 * i) + 2]) = points[i];
        }

        var box = Box3D.Of(points);
        var tree = new PointTree(coordinates);

        // A first guess of the spacing from the surface of the box, then the radius that holds about twelve neighbours.
        var size = box.Size;
        var area = 2 * ((size.X * size.Y) + (size.Y * size.Z) + (size.Z * size.X));
        var mean = Math.Sqrt(area / Math.Max(1, points.Length));
        spacing = mean;
        return Unsigned(coordinates, tree, 2.5 * mean);
    }

    /// <summary>One unit normal a point, of arbitrary sense; zero where fewer than four points lie within reach.</summary>
    /// <param name="coordinates">3·N doubles.</param>
    /// <param name="tree">The same points.</param>
    /// <param name="reach">Of the neighbours that tell it, mm.</param>
    public static Vector3D[] Unsigned(double[] coordinates, PointTree tree, double reach)
    {
        var points = new Vector3D[coordinates.Length / 3];
        for (var i = 0; i < points.Length; i++)
        {
            points[i] = Vector3D.At(coordinates, i);
        }

        var normals = new Vector3D[points.Length];
        Parallel.For(0, points.Length, () => new List<int>(), (i, _, near) =>
        {
            tree.Within(points[i], reach, near);
            normals[i] = near.Count < 4 ? Vector3D.Zero : LeastScatter(points, near);
            return near;
        }, _ => { });
        return normals;
    }

    /// <summary>
    /// Normals with one sense: the highest point's normal is turned up, and the sense spreads from neighbour to neighbour, always over the
    /// pair whose normals differ least (the minimum spanning tree of Hoppe et al. 1992, by Prim's algorithm). Each separate part of the
    /// cloud starts at its own highest point.
    /// </summary>
    /// <param name="coordinates">3·N doubles.</param>
    /// <param name="reach">Points nearer than this are neighbours, mm.</param>
    public static Vector3D[] Oriented(double[] coordinates, double reach)
    {
        var tree = new PointTree(coordinates);
        var points = new Vector3D[coordinates.Length / 3];
        for (var i = 0; i < points.Length; i++)
        {
            points[i] = Vector3D.At(coordinates, i);
        }

        var near = new int[points.Length][];
        var normals = new Vector3D[points.Length];
        Parallel.For(0, points.Length, () => new List<int>(), (i, _, found) =>
        {
            tree.Within(points[i], reach, found);
            normals[i] = found.Count < 3 ? Vector3D.Zero : LeastScatter(points, found);
            near[i] = [.. found];
            return found;
        }, _ => { });
        var done = new bool[points.Length];
        var queue = new PriorityQueue<(int To, Vector3D Sense), double>();
        foreach (var seed in Enumerable.Range(0, points.Length).OrderByDescending(i => points[i].Z))
        {
            if (!done[seed])
            {
                queue.Enqueue((seed, Vector3D.UnitZ), 0);
                Spread();
            }
        }

        return normals;

        void Spread()
        {
            while (queue.TryDequeue(out var step, out _))
            {
                if (done[step.To])
                {
                    continue;
                }

                done[step.To] = true;
                var n = normals[step.To].Dot(step.Sense) < 0 ? -normals[step.To] : normals[step.To];
                normals[step.To] = n;
                foreach (var next in near[step.To])
                {
                    if (!done[next])
                    {
                        queue.Enqueue((next, n), 1 - Math.Abs(n.Dot(normals[next])));
                    }
                }
            }
        }
    }

    private static Vector3D LeastScatter(Vector3D[] points, List<int> near)
    {
        var mean = Vector3D.Zero;
        foreach (var i in near)
        {
            mean += points[i] / near.Count;
        }

        double xx = 0, xy = 0, xz = 0, yy = 0, yz = 0, zz = 0;
        foreach (var i in near)
        {
            var p = points[i] - mean;
            (xx, xy, xz) = (xx + (p.X * p.X), xy + (p.X * p.Y), xz + (p.X * p.Z));
            (yy, yz, zz) = (yy + (p.Y * p.Y), yz + (p.Y * p.Z), zz + (p.Z * p.Z));
        }

        return SymmetricEigen.Solve3(xx, xy, xz, yy, yz, zz).Vectors[0];
    }
}

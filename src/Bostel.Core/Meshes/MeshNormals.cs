using Bostel.Core.Geometry;

namespace Bostel.Core.Meshes;

/// <summary>Normals and areas carried by the vertices of a mesh.</summary>
public static class MeshNormals
{
    /// <summary>
    /// Angle-weighted vertex normals (Thürmer and Wüthrich 1998), 3·V floats, and per vertex how well the normals around it agree: the
    /// length of their weighted mean, 1 on a flat area and less at an edge; the least over the vertex and its neighbours, because the fan
    /// of a vertex beside an edge may lie wholly on the wrong side of it.
    /// </summary>
    public static (float[] Normals, float[] Agreement) VertexNormals(TriangleMesh mesh)
    {
        var sums = new double[mesh.Coordinates.Length];
        var weights = new double[mesh.VertexCount];
        for (var t = 0; t < mesh.TriangleCount; t++)
        {
            // A patch gives its own vertices normals, never the measured ones at its border.
            var first = t < mesh.MeasuredTriangleCount ? 0 : mesh.MeasuredVertexCount;
            var (a, b, c) = mesh.Triangle(t);
            var n = (b - a).Cross(c - a).Normalized();
            AddWeighted(sums, weights, mesh.Indices[3 * t], first, n, CornerAngle(a, b, c));
            AddWeighted(sums, weights, mesh.Indices[(3 * t) + 1], first, n, CornerAngle(b, c, a));
            AddWeighted(sums, weights, mesh.Indices[(3 * t) + 2], first, n, CornerAngle(c, a, b));
        }

        var normals = new float[sums.Length];
        var agreement = new float[weights.Length];
        for (var i = 0; i < sums.Length; i += 3)
        {
            var sum = new Vector3D(sums[i], sums[i + 1], sums[i + 2]);
            var n = sum.Normalized();
            agreement[i / 3] = weights[i / 3] > 0 ? (float)(sum.Length / weights[i / 3]) : 0;
            normals[i] = (float)n.X;
            normals[i + 1] = (float)n.Y;
            normals[i + 2] = (float)n.Z;
        }

        var least = (float[])agreement.Clone();
        for (var t = 0; t < mesh.Indices.Length; t += 3)
        {
            var (a, b, c) = (mesh.Indices[t], mesh.Indices[t + 1], mesh.Indices[t + 2]);
            var lowest = Math.Min(agreement[a], Math.Min(agreement[b], agreement[c]));
            (least[a], least[b], least[c]) = (Math.Min(least[a], lowest), Math.Min(least[b], lowest), Math.Min(least[c], lowest));
        }

        return (normals, least);
    }

    /// <summary>A third of the measured triangle area around each vertex.</summary>
    public static double[] VertexAreas(TriangleMesh mesh)
    {
        var areas = new double[mesh.VertexCount];
        for (var t = 0; t < mesh.MeasuredTriangleCount; t++)
        {
            var third = mesh.TriangleArea(t) / 3;
            for (var k = 0; k < 3; k++)
            {
                areas[mesh.Indices[(3 * t) + k]] += third;
            }
        }

        return areas;
    }

    /// <summary>Interior angle of a triangle at its first corner, in radians.</summary>
    public static double CornerAngle(Vector3D at, Vector3D b, Vector3D c)
    {
        var u = b - at;
        var v = c - at;
        return Math.Atan2(u.Cross(v).Length, u.Dot(v));
    }

    private static void AddWeighted(double[] sums, double[] weights, int vertex, int first, Vector3D n, double weight)
    {
        if (vertex < first)
        {
            return;
        }

        weights[vertex] += weight;
        sums[3 * vertex] += weight * n.X;
        sums[(3 * vertex) + 1] += weight * n.Y;
        sums[(3 * vertex) + 2] += weight * n.Z;
    }

    /// <summary>Unit mean of the three vertex normals of each triangle, 3·T floats.</summary>
    public static float[] SmoothFaceNormals(TriangleMesh mesh)
    {
        var corner = mesh.VertexNormals;
        var normals = new float[mesh.Indices.Length];
        Parallel.For(0, (mesh.TriangleCount + 8191) / 8192, chunk =>
        {
            for (var t = chunk * 8192; t < Math.Min(mesh.TriangleCount, (chunk + 1) * 8192); t++)
            {
                var sum = Vector3D.Zero;
                for (var h = 3 * t; h < (3 * t) + 3; h++)
                {
                    var v = 3 * mesh.Indices[h];
                    sum += new Vector3D(corner[v], corner[v + 1], corner[v + 2]);
                }

                var n = sum.Normalized();
                (normals[3 * t], normals[(3 * t) + 1], normals[(3 * t) + 2]) = ((float)n.X, (float)n.Y, (float)n.Z);
            }
        });
        return normals;
    }

    /// <summary>Steps of <see cref="EdgeTurns"/> in the chord between two unit normals, 2 sin of half the angle.</summary>
    public const double TurnSteps = 32767;

    /// <summary>
    /// How far the smooth normals turn across each edge of each triangle, 3·T chords in <see cref="TurnSteps"/>; the largest number where
    /// no triangle borders.
    /// </summary>
    public static ushort[] EdgeTurns(TriangleMesh mesh)
    {
        var (normals, neighbours) = (mesh.SmoothFaceNormals, mesh.Topology.Neighbours);
        var turns = new ushort[neighbours.Length];
        Parallel.For(0, (mesh.TriangleCount + 8191) / 8192, chunk =>
        {
            for (var h = 3 * chunk * 8192; h < Math.Min(turns.Length, 3 * (chunk + 1) * 8192); h++)
            {
                var (a, b) = (h / 3 * 3, 3 * neighbours[h]);
                if (b < 0)
                {
                    turns[h] = ushort.MaxValue;
                    continue;
                }

                var (x, y, z) = (normals[a] - normals[b], normals[a + 1] - normals[b + 1], normals[a + 2] - normals[b + 2]);
                turns[h] = (ushort)Math.Round(TurnSteps * Math.Sqrt((x * x) + (y * y) + (z * z)));
            }
        });
        return turns;
    }
}

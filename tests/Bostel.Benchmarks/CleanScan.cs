using Bostel.Core.Geometry;
using Bostel.Core.Meshes;
using Bostel.Core.Plans;
using Bostel.Scanner;

namespace Bostel.Benchmarks;

/// <summary>
/// A simulated scan without noise or error, whose points know their face and normal: what campaigns plant their errors on.
/// </summary>
internal sealed class CleanScan
{
    public CleanScan(InspectionRunner runner, double spacing)
    {
        var nominal = runner.Nominal;
        Mesh = SimulatedScanner.Scan(
            nominal, new() { Seed = 5, Spacing = spacing, Noise = 0, RandomPose = false, StrayPieces = 0, TablePatch = false }).Mesh;
        Normals = new Vector3D[Mesh.VertexCount];
        FaceOf = new int[Mesh.VertexCount];
        Parallel.For(0, Mesh.VertexCount, v =>
        {
            var hit = runner.Tree.Closest(Mesh.Vertex(v));
            (FaceOf[v], Normals[v]) = (nominal.FaceOfTriangle[hit.Triangle], runner.Tree.FaceNormal(hit.Triangle));
        });
    }

    public TriangleMesh Mesh { get; }

    public Vector3D[] Normals { get; }

    /// <summary>The nominal face of each vertex.</summary>
    public int[] FaceOf { get; }

    /// <summary>The scan with every vertex moved along its normal.</summary>
    /// <param name="by">How far, mm.</param>
    /// <param name="gone">Vertices that were not measured.</param>
    public TriangleMesh Moved(Func<int, double> by, bool[]? gone = null)
    {
        var coordinates = new double[Mesh.Coordinates.Length];
        for (var v = 0; v < FaceOf.Length; v++)
        {
            (coordinates[3 * v], coordinates[(3 * v) + 1], coordinates[(3 * v) + 2]) = Mesh.Vertex(v) + (by(v) * Normals[v]);
        }

        var mesh = new TriangleMesh(coordinates, Mesh.Indices);
        return gone is null
            ? mesh
            : mesh.KeepTriangles(t => !gone[mesh.Indices[3 * t]] && !gone[mesh.Indices[(3 * t) + 1]] && !gone[mesh.Indices[(3 * t) + 2]]);
    }
}

using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Preparation;

/// <summary>A smoothed mesh, and how far each vertex was moved, mm.</summary>
public sealed record SmoothedMesh(TriangleMesh Mesh, float[] Displacements)
{
    public double Largest => Displacements.Length == 0 ? 0 : Displacements.Max();
}

/// <summary>Takes noise out of a surface without shrinking it, and never moves a vertex farther than allowed.</summary>
public static class Smoothing
{
    /// <summary>The pass band reaches to 1/λ + 1/μ = 0.02: form below it is swollen by no more than (|μ| − λ)·k a pass, here 1e-4 of k = 0.02.</summary>
    internal const double Lambda = 0.5;
    internal const double Mu = -0.505;
    /// <summary>Keeps a point at its guard inside it whatever the rounding.</summary>
    private const double Inward = 1 - 1e-9;
    private const int Chunk = 8192;

    /// <summary>
    /// Taubin's λ|μ filter (Taubin 1995): each pass shrinks by λ and swells by μ, so that noise goes and form stays. Only chosen vertices move, borders
    /// stay, and no vertex leaves the ball of the guard around where it was measured.
    /// </summary>
    /// <param name="chosen">Whether a vertex may move; all when null.</param>
    /// <param name="passes">1 to 100.</param>
    /// <param name="guard">Largest displacement, mm.</param>
    /// <exception cref="BadInputException">Passes or guard out of range.</exception>
    public static SmoothedMesh Smooth(TriangleMesh mesh, bool[]? chosen, int passes, double guard, CancellationToken cancel = default)
    {
        if (passes is < 1 or > 100)
        {
            throw new BadInputException("passes: must be from 1 to 100.");
        }

        if (!(guard > 0))
        {
            throw new BadInputException("maxDisplacement: must be above 0 mm.");
        }

        var rings = mesh.Rings;
        var moves = Movable(mesh, rings, chosen);
        var from = (double[])mesh.Coordinates.Clone();
        var to = (double[])mesh.Coordinates.Clone();
        for (var pass = 0; pass < 2 * passes; pass++)
        {
            Step(mesh, rings, moves, from, to, pass % 2 == 0 ? Lambda : Mu, guard, cancel);
            (from, to) = (to, from);
        }

        var smoothed = mesh.WithCoordinates(from);
        var displacements = new float[mesh.VertexCount];
        for (var v = 0; v < displacements.Length; v++)
        {
            displacements[v] = moves[v] ? (float)Vector3D.Distance(smoothed.Vertex(v), mesh.Vertex(v)) : 0;
        }

        return new(smoothed, displacements);
    }

    /// <summary>Inside vertices meet as many edges going out as coming in; border vertices do not, and stay.</summary>
    private static bool[] Movable(TriangleMesh mesh, VertexRings rings, bool[]? chosen)
    {
        var moves = new bool[mesh.VertexCount];
        Parallel.For(0, (moves.Length + Chunk - 1) / Chunk, chunk =>
        {
            for (var v = chunk * Chunk; v < Math.Min(moves.Length, (chunk + 1) * Chunk); v++)
            {
                long outgoing = 0, incoming = 0;
                foreach (var corner in rings.Of(v))
                {
                    outgoing += mesh.Indices[MeshTopology.Next(corner)];
                    incoming += mesh.Indices[MeshTopology.Next(MeshTopology.Next(corner))];
                }

                moves[v] = (chosen is null || chosen[v]) && outgoing == incoming && rings.Of(v).Length > 2;
            }
        });
        return moves;
    }

    private static void Step(TriangleMesh mesh, VertexRings rings, bool[] moves, double[] from, double[] to, double factor, double guard, CancellationToken cancel)
    {
        var indices = mesh.Indices;
        var start = mesh.Coordinates;
        Parallel.For(0, (moves.Length + Chunk - 1) / Chunk, new ParallelOptions { CancellationToken = cancel }, chunk =>
        {
            for (var v = chunk * Chunk; v < Math.Min(moves.Length, (chunk + 1) * Chunk); v++)
            {
                if (!moves[v])
                {
                    continue;
                }

                double x = 0, y = 0, z = 0;
                var corners = rings.Of(v);
                foreach (var corner in corners)
                {
                    var n = 3 * indices[MeshTopology.Next(corner)];
                    x += from[n];
                    y += from[n + 1];
                    z += from[n + 2];
                }

                var i = 3 * v;
                var share = factor / corners.Length;
                double dx = ((1 - factor) * from[i]) + (share * x) - start[i], dy = ((1 - factor) * from[i + 1]) + (share * y) - start[i + 1], dz = ((1 - factor) * from[i + 2]) + (share * z) - start[i + 2];
                var length = Math.Sqrt((dx * dx) + (dy * dy) + (dz * dz));
                var kept = length > guard ? guard / length * Inward : 1;
                (to[i], to[i + 1], to[i + 2]) = (start[i] + (kept * dx), start[i + 1] + (kept * dy), start[i + 2] + (kept * dz));
            }
        });
    }
}

using System.Runtime.Intrinsics;
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
    /// <summary>
    /// The pass band reaches to 1/λ + 1/μ = 0.02: form below it is swollen by no more than (|μ| − λ)·k a pass, here 1e-4 of k =
    /// 0.02.
    /// </summary>
    internal const double Lambda = 0.5;
    internal const double Mu = -0.505;
    /// <summary>Keeps a point at its guard inside it whatever the rounding.</summary>
    private const double Inward = 1 - 1e-9;
    private const int Chunk = 8192;

    /// <summary>
    /// Taubin's λ|μ filter (Taubin 1995): each pass shrinks by λ and swells by μ, so that noise goes and form stays. Only chosen
    /// vertices move, borders stay, and no vertex leaves the ball of the guard around where it was measured.
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
        var around = new int[rings.Corners.Length];
        var moves = Movable(mesh, rings, chosen, around);

        // Four coordinates are read at once: the last vertex must have a fourth.
        var start = Padded(mesh.Coordinates);
        var (from, to) = ((double[])start.Clone(), (double[])start.Clone());
        for (var pass = 0; pass < 2 * passes; pass++)
        {
            Step(rings.Starts, around, moves, start, from, to, pass % 2 == 0 ? Lambda : Mu, guard, cancel);
            (from, to) = (to, from);
        }

        var smoothed = mesh.WithCoordinates(from[..^1]);
        var displacements = new float[mesh.VertexCount];
        for (var v = 0; v < displacements.Length; v++)
        {
            displacements[v] = moves[v] ? (float)Vector3D.Distance(smoothed.Vertex(v), mesh.Vertex(v)) : 0;
        }

        return new(smoothed, displacements);
    }

    private static double[] Padded(double[] coordinates)
    {
        var padded = new double[coordinates.Length + 1];
        coordinates.CopyTo(padded, 0);
        return padded;
    }

    /// <summary>Inside vertices meet as many edges going out as coming in; border vertices do not, and stay.</summary>
    /// <param name="around">Gets the neighbours of every vertex, in the order of the rings.</param>
    private static bool[] Movable(TriangleMesh mesh, VertexRings rings, bool[]? chosen, int[] around)
    {
        var moves = new bool[mesh.VertexCount];
        Parallel.For(0, (moves.Length + Chunk - 1) / Chunk, chunk =>
        {
            for (var v = chunk * Chunk; v < Math.Min(moves.Length, (chunk + 1) * Chunk); v++)
            {
                long outgoing = 0, incoming = 0;
                for (var i = rings.Starts[v]; i < rings.Starts[v + 1]; i++)
                {
                    var next = MeshTopology.Next(rings.Corners[i]);
                    around[i] = mesh.Indices[next];
                    outgoing += around[i];
                    incoming += mesh.Indices[MeshTopology.Next(next)];
                }

                moves[v] = (chosen is null || chosen[v]) && outgoing == incoming && rings.Of(v).Length > 2;
            }
        });
        return moves;
    }

    private static void Step(int[] starts, int[] around, bool[] moves, double[] start, double[] from, double[] to, double factor,
        double guard, CancellationToken cancel) =>
        Parallel.For(0, (moves.Length + Chunk - 1) / Chunk, new ParallelOptions { CancellationToken = cancel }, chunk =>
        {
            for (var v = chunk * Chunk; v < Math.Min(moves.Length, (chunk + 1) * Chunk); v++)
            {
                if (!moves[v])
                {
                    continue;
                }

                var sum = Vector256<double>.Zero;
                var ring = around.AsSpan(starts[v], starts[v + 1] - starts[v]);
                foreach (var n in ring)
                {
                    sum += Vector256.LoadUnsafe(ref from[3 * n]);
                }

                var origin = Vector256.LoadUnsafe(ref start[3 * v]);
                var move = ((1 - factor) * Vector256.LoadUnsafe(ref from[3 * v])) + (factor / ring.Length * sum) - origin;
                var squares = move * move;
                var length = squares.GetElement(0) + squares.GetElement(1) + squares.GetElement(2);
                var moved = origin + (length > guard * guard ? guard / Math.Sqrt(length) * Inward * move : move);
                (to[3 * v], to[(3 * v) + 1], to[(3 * v) + 2]) = (moved.GetElement(0), moved.GetElement(1), moved.GetElement(2));
            }
        });
}

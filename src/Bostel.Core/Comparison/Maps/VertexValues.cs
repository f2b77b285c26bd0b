namespace Bostel.Core.Comparison;

/// <summary>Works out one value a vertex, many side by side.</summary>
internal static class VertexValues
{
    private const int Chunk = 512;

    /// <param name="vertices">Of what the map lies on.</param>
    /// <param name="measured">Only the first so many have a value; the others, which belong to patches, are NaN.</param>
    /// <param name="room">Makes what one thread works in.</param>
    /// <param name="at">The value at a vertex.</param>
    public static double[] Of<T>(
        int vertices, int measured, Func<T> room, Func<int, T, double> at, IProgress<double>? progress, CancellationToken cancel)
    {
        var values = new double[vertices];
        Array.Fill(values, double.NaN, measured, vertices - measured);
        var chunks = (measured + Chunk - 1) / Chunk;
        var done = 0;
        Parallel.For(0, chunks, new ParallelOptions { CancellationToken = cancel }, room, (chunk, _, mine) =>
        {
            for (var v = chunk * Chunk; v < Math.Min(measured, (chunk + 1) * Chunk); v++)
            {
                values[v] = at(v, mine);
            }

            progress?.Report((double)Interlocked.Increment(ref done) / chunks);
            return mine;
        }, _ => { });
        return values;
    }

    public static double[] Of(
        int vertices, int measured, Func<int, double> at, IProgress<double>? progress, CancellationToken cancel) =>
        Of(vertices, measured, () => 0, (v, _) => at(v), progress, cancel);
}

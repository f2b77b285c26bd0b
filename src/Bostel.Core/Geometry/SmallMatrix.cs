using System.Runtime.InteropServices;

namespace Bostel.Core.Geometry;

/// <summary>
/// A square matrix as a span, row after row. Small systems are solved millions of times; an array of two dimensions costs more to make
/// than a system of seven unknowns to solve.
/// </summary>
internal static class SmallMatrix
{
    /// <summary>The numbers of an array of two dimensions, which lie row after row.</summary>
    public static Span<double> AsSpan(this double[,] matrix) =>
        matrix.Length == 0 ? [] : MemoryMarshal.CreateSpan(ref matrix[0, 0], matrix.Length);
}

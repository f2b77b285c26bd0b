using System.Runtime.InteropServices;

namespace Bostel.Server.Services;

/// <summary>
/// The open codec of the glTF extension EXT_meshopt_compression (Khronos), by Debian's libmeshoptimizer: byte planes of vertices, and
/// triangles by the edges they share with those before. Without loss, but a triangle may begin with another of its corners. Safe for
/// concurrent use.
/// </summary>
internal static partial class Meshopt
{
    private const string Library = "libmeshoptimizer.so.2d";

    /// <summary>Bytes of a corner's number.</summary>
    private const int Index = 4;

    // Version 1 is what the extension asks for; the library's own default is older.
    static Meshopt() => EncodeIndexVersion(1);

    /// <summary>Encodes records of <paramref name="size"/> bytes (a multiple of four, at most 256).</summary>
    /// <returns>What was written of <paramref name="to"/>, which must hold <see cref="RecordsBound"/>.</returns>
    public static int Records(ReadOnlySpan<byte> records, int size, Span<byte> to) => Written(
        EncodeVertexBuffer(ref MemoryMarshal.GetReference(to), (nuint)to.Length, in MemoryMarshal.GetReference(records),
            (nuint)(records.Length / size), (nuint)size));

    /// <summary>Bytes that so many records take at most.</summary>
    public static int RecordsBound(int count, int size) => (int)EncodeVertexBufferBound((nuint)count, (nuint)size);

    /// <summary>Encodes triangles, three corners of four bytes each.</summary>
    /// <returns>What was written of <paramref name="to"/>, which must hold <see cref="TrianglesBound"/>.</returns>
    public static int Triangles(ReadOnlySpan<byte> corners, Span<byte> to) => Written(
        EncodeIndexBuffer(
            ref MemoryMarshal.GetReference(to), (nuint)to.Length, in MemoryMarshal.GetReference(corners), (nuint)(corners.Length / Index)));

    /// <summary>Bytes that so many triangles take at most.</summary>
    public static int TrianglesBound(int count) => (int)EncodeIndexBufferBound((nuint)(3 * count), int.MaxValue);

    private static int Written(nuint bytes) =>
        bytes > 0 ? (int)bytes : throw new InvalidOperationException("The room for encoded geometry is too small.");

    [LibraryImport(Library, EntryPoint = "meshopt_encodeIndexVersion")]
    private static partial void EncodeIndexVersion(int version);

    [LibraryImport(Library, EntryPoint = "meshopt_encodeVertexBuffer")]
    private static partial nuint EncodeVertexBuffer(ref byte buffer, nuint size, in byte records, nuint count, nuint recordSize);

    [LibraryImport(Library, EntryPoint = "meshopt_encodeVertexBufferBound")]
    private static partial nuint EncodeVertexBufferBound(nuint count, nuint recordSize);

    [LibraryImport(Library, EntryPoint = "meshopt_encodeIndexBuffer")]
    private static partial nuint EncodeIndexBuffer(ref byte buffer, nuint size, in byte corners, nuint count);

    [LibraryImport(Library, EntryPoint = "meshopt_encodeIndexBufferBound")]
    private static partial nuint EncodeIndexBufferBound(nuint count, nuint vertices);
}

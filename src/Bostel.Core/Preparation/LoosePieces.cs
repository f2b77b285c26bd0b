using Bostel.Core.Meshes;
using Bostel.Core.Selecting;

namespace Bostel.Core.Preparation;

/// <summary>What preparing did, for the record in the report: loose pieces of the raw scan, and each step in order.</summary>
public sealed record PreparationRecord(int TrianglesBefore, int TrianglesAfter, int PiecesFound, int PiecesDropped, double AreaDropped,
    IReadOnlyList<ConnectedPiece> Pieces, IReadOnlyList<StepRecord>? Steps = null);

/// <summary>Drops connected pieces that are not the part.</summary>
public static class LoosePieces
{
    /// <summary>Keeps only the part. A cloud without triangles is returned as it is.</summary>
    public static (TriangleMesh Mesh, PreparationRecord Record) DropAllButPart(TriangleMesh mesh, double? nominalArea)
    {
        if (mesh.TriangleCount == 0)
        {
            return (mesh, new(0, 0, 0, 0, 0, []));
        }

        var (pieces, labels) = ConnectedPieces.Find(mesh, nominalArea);
        var dropped = pieces.Where(p => !p.IsPart).ToList();
        var goes = dropped.Select(p => p.Number).ToHashSet();
        var kept = goes.Count == 0 ? mesh : mesh.KeepTriangles(t => !goes.Contains(labels[t]));
        return (kept, new(mesh.TriangleCount, kept.TriangleCount, pieces.Count, dropped.Count, dropped.Sum(p => p.Area), pieces));
    }

    /// <summary>Drops pieces with fewer triangles than a number, or with less area (mm²).</summary>
    /// <exception cref="BadInputException">Nothing would remain.</exception>
    public static (TriangleMesh Mesh, PreparationRecord Record) DropBelow(TriangleMesh mesh, int leastTriangles, double leastArea = 0)
    {
        var (pieces, labels) = ConnectedPieces.Find(mesh, null);
        var dropped = pieces.Where(p => p.Triangles < leastTriangles || p.Area < leastArea).ToList();
        if (dropped.Count == pieces.Count)
        {
            throw new BadInputException("All pieces are smaller than that: nothing would remain.");
        }

        var goes = new bool[pieces.Count];
        dropped.ForEach(p => goes[p.Number] = true);
        var result = mesh.KeepTriangles(t => !goes[labels[t]]);
        return (result, new(mesh.TriangleCount, result.TriangleCount, pieces.Count, dropped.Count, dropped.Sum(p => p.Area), pieces));
    }

    /// <summary>The record of a scan that was left as it is.</summary>
    public static PreparationRecord Untouched(TriangleMesh mesh, double? nominalArea)
    {
        var pieces = mesh.TriangleCount == 0 ? [] : ConnectedPieces.Find(mesh, nominalArea).Pieces;
        return new(mesh.TriangleCount, mesh.TriangleCount, pieces.Count, 0, 0, pieces);
    }
}

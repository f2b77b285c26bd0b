using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Preparation;

/// <summary>One connected piece of a scan.</summary>
public sealed record Piece(int Number, int Triangles, double Area, Vector3D Size, Vector3D Center, bool IsPart);

/// <summary>What preparing did, for the record in the report: loose pieces of the raw scan, and each step in order.</summary>
public sealed record PreparationRecord(int TrianglesBefore, int TrianglesAfter, int PiecesFound, int PiecesDropped, double AreaDropped,
    IReadOnlyList<Piece> Pieces, IReadOnlyList<StepRecord>? Steps = null);

/// <summary>Finds and drops connected pieces that are not the part.</summary>
public static class LoosePieces
{
    /// <summary>
    /// Lists the pieces, largest area first, and marks the part: among pieces of at least a tenth of the largest area the one whose area is
    /// nearest to the nominal's (a table patch may be larger than the part), with the skins that close the same material with it (as the
    /// other side of a sheet whose edge the scan missed); or simply the largest when no nominal area is given.
    /// </summary>
    public static (IReadOnlyList<Piece> Pieces, int[] Labels) Find(TriangleMesh mesh, double? nominalArea)
    {
        var (labels, count) = mesh.Topology.Pieces();
        var triangles = new int[count];
        var areas = new double[count];
        var boxes = new Box3D[count];
        Array.Fill(boxes, Box3D.Empty);
        for (var t = 0; t < labels.Length; t++)
        {
            var l = labels[t];
            var (a, b, c) = mesh.Triangle(t);
            triangles[l]++;
            areas[l] += 0.5 * (b - a).Cross(c - a).Length;
            boxes[l] = boxes[l].Include(a).Include(b).Include(c);
        }

        var part = PartOf(areas, nominalArea);
        var pieces = Enumerable.Range(0, count).Select(l => new Piece(l, triangles[l], areas[l], boxes[l].Size, boxes[l].Center, l == part))
            .OrderByDescending(p => p.Area).ThenBy(p => p.Number).ToList();
        if (nominalArea is { } area && PartSkins.Of(mesh, labels, pieces, pieces.First(p => p.IsPart), area) is var skins
            && pieces.Any(p => p.IsPart != skins.Contains(p.Number)))
        {
            pieces = [.. pieces.Select(p => p with { IsPart = skins.Contains(p.Number) })];
        }

        return (pieces, labels);
    }

    /// <summary>Keeps only the part. A cloud without triangles is returned as it is.</summary>
    public static (TriangleMesh Mesh, PreparationRecord Record) DropAllButPart(TriangleMesh mesh, double? nominalArea)
    {
        if (mesh.TriangleCount == 0)
        {
            return (mesh, new(0, 0, 0, 0, 0, []));
        }

        var (pieces, labels) = Find(mesh, nominalArea);
        var dropped = pieces.Where(p => !p.IsPart).ToList();
        var goes = dropped.Select(p => p.Number).ToHashSet();
        var kept = goes.Count == 0 ? mesh : mesh.KeepTriangles(t => !goes.Contains(labels[t]));
        return (kept, new(mesh.TriangleCount, kept.TriangleCount, pieces.Count, dropped.Count, dropped.Sum(p => p.Area), pieces));
    }

    /// <summary>Drops pieces with fewer triangles than a number, or with less area (mm²).</summary>
    /// <exception cref="BadInputException">Nothing would remain.</exception>
    public static (TriangleMesh Mesh, PreparationRecord Record) DropBelow(TriangleMesh mesh, int leastTriangles, double leastArea = 0)
    {
        var (pieces, labels) = Find(mesh, null);
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
        var pieces = mesh.TriangleCount == 0 ? [] : Find(mesh, nominalArea).Pieces;
        return new(mesh.TriangleCount, mesh.TriangleCount, pieces.Count, 0, 0, pieces);
    }

    private static int PartOf(double[] areas, double? nominalArea)
    {
        var largest = areas.Max();
        var part = Array.IndexOf(areas, largest);
        if (nominalArea is not { } expected)
        {
            return part;
        }

        for (var l = 0; l < areas.Length; l++)
        {
            if (areas[l] >= 0.1 * largest && Math.Abs(Math.Log(areas[l] / expected)) < Math.Abs(Math.Log(areas[part] / expected)))
            {
                part = l;
            }
        }

        return part;
    }
}

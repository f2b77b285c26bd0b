using Bostel.Core.Geometry;
using Bostel.Core.Meshes;

namespace Bostel.Core.Selecting;

/// <summary>One connected piece of a scan: its size (mm), area (mm²), whether it belongs to the part.</summary>
public sealed record ConnectedPiece(int Number, int Triangles, double Area, Vector3D Size, Vector3D Center, bool IsPart);

/// <summary>Finds the connected pieces of a mesh and which of them are the part.</summary>
public static class ConnectedPieces
{
    /// <summary>
    /// Lists the pieces, largest area first, and marks the part: among pieces of at least a tenth of the largest area the one whose area is
    /// nearest to the nominal's (a table patch may be larger than the part), with the skins that close the same material with it (as the
    /// other side of a sheet whose edge the scan missed); or simply the largest when no nominal area is given.
    /// </summary>
    public static (IReadOnlyList<ConnectedPiece> Pieces, int[] Labels) Find(TriangleMesh mesh, double? nominalArea)
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
        var pieces = Enumerable.Range(0, count)
            .Select(l => new ConnectedPiece(l, triangles[l], areas[l], boxes[l].Size, boxes[l].Center, l == part))
            .OrderByDescending(p => p.Area).ThenBy(p => p.Number).ToList();
        if (nominalArea is { } area && PartSkins.Of(mesh, labels, pieces, pieces.First(p => p.IsPart), area) is var skins
            && pieces.Any(p => p.IsPart != skins.Contains(p.Number)))
        {
            pieces = [.. pieces.Select(p => p with { IsPart = skins.Contains(p.Number) })];
        }

        return (pieces, labels);
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

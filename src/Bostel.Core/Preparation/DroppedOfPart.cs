using System.Globalization;
using Bostel.Core.Meshes;
using Bostel.Core.Selecting;

namespace Bostel.Core.Preparation;

/// <summary>
/// Looks whether pieces that were dropped as foreign lie on the nominal after all: then they were part of it, and evidence is gone.
/// </summary>
internal static class DroppedOfPart
{
    /// <summary>Pieces are looked at from this share of the nominal's area on.</summary>
    private const double WorthALook = 0.03;

    /// <summary>
    /// No two points of a part lie farther apart than its diagonal, give or take: what reaches farther is foreign without looking closer.
    /// </summary>
    private const double Farthest = 1.05;

    /// <summary>From this share of the nominal's area on it is said.</summary>
    private const double WorthSaying = 0.02;

    /// <summary>A sentence, or null when nothing of the part was dropped, as far as it can be told.</summary>
    /// <exception cref="OperationCanceledException">Cancelled while the pose was sought.</exception>
    public static string? Caution(
        TriangleMesh scan, TriangleMesh kept, PreparationRecord record, PreparationContext context, CancellationToken cancel)
    {
        if (context is not { Nominal: { } nominal, NominalArea: { } area, Pose: not null })
        {
            return null;
        }

        var limit = Farthest * nominal.Mesh.Bounds.Diagonal;
        bool Fits(ConnectedPiece p)
        {
            var together = kept.Bounds.Include(p.Center - (0.5 * p.Size)).Include(p.Center + (0.5 * p.Size)).Size;
            return Math.Max(together.X, Math.Max(together.Y, together.Z)) <= limit;
        }

        var suspects = record.Pieces.Where(p => !p.IsPart && p.Area >= WorthALook * area && Fits(p)).Select(p => p.Number).ToHashSet();
        if (suspects.Count == 0)
        {
            return null;
        }

        var (labels, _) = scan.Topology.Pieces();
        var inside = Enumerable.Range(0, scan.TriangleCount).Where(t => suspects.Contains(labels[t]));

        try
        {
            var pose = context.PoseOfScan(cancel);
            var near = Math.Max(0.3, 0.004 * nominal.Mesh.Bounds.Diagonal);
            var lost = inside.Sum(t =>
            {
                var (a, b, c) = scan.Triangle(t);
                var normal = pose.Rotate((b - a).Cross(c - a)).Normalized();
                return nominal.Closest(pose.Apply(Center(scan, t)), near, -1, normal, 0.5).Found ? scan.TriangleArea(t) : 0;
            });
            return lost < WorthSaying * area
                ? null
                : string.Create(CultureInfo.InvariantCulture, $"{lost:0} mm² of what was dropped lie on the nominal, "
                    + $"{100 * lost / area:0.#} % of its surface: pieces of the part itself are gone.");
        }
        catch (BadInputException)
        {
            // Without a pose it cannot be told; the alignment will say that it finds none.
            return null;
        }
    }

    private static Geometry.Vector3D Center(TriangleMesh mesh, int t)
    {
        var (a, b, c) = mesh.Triangle(t);
        return (a + b + c) / 3;
    }
}

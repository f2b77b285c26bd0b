using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using static System.FormattableString;

namespace Bostel.Core.Plans;

/// <summary>The edges of sheet sides that picked faces make: of themselves, or of the whole opening that they belong to.</summary>
public static class EdgeOffers
{
    private const double SamePlace = 1e-5;

    /// <summary>Features measured from edges, those on the side with the longest border first; none when the faces make none.</summary>
    /// <param name="faces">The walls, or some of them.</param>
    /// <exception cref="BadInputException">The nominal has no such face.</exception>
    public static IReadOnlyList<FeaturePlan> For(NominalModel nominal, InspectionPlan plan, IReadOnlyList<int> faces)
    {
        var offers = new List<FeaturePlan>();
        if (faces.Count == 0)
        {
            return offers;
        }

        var borders = FaceBorders.Of(nominal);
        foreach (var side in EdgeNominal.SidesOf([.. faces.Select(f => nominal.Face(f).Id)], nominal, borders))
        {
            // The whole opening first: one side of a slot is more often meant for the slot than for a trim line.
            int[] opening = Opening(nominal, faces, side);
            int[][] asked = faces.ToHashSet().SetEquals(opening) ? [opening] : [opening, [.. faces]];
            offers.AddRange(asked.Select(walls => Edge(nominal, plan, walls, side)).OfType<FeaturePlan>());
        }

        return offers;
    }

    /// <summary>The edge that walls cut out of a side, under an id and a name of its own; null when it cannot be measured.</summary>
    /// <param name="number">Its place among others alike; 0: it stands alone.</param>
    internal static FeaturePlan? Edge(NominalModel nominal, InspectionPlan plan, int[] walls, int side, int number = 0)
    {
        return EdgeNominal.Try(walls, side, nominal).Edge is { } edge
            ? Proposals.Unique(
                new($"edge-{string.Join('-', walls)}-of-{side}", NameOf(edge, number), walls) { EdgeOf = side }, plan.Features)
            : null;
    }

    private static string NameOf(EdgeNominal edge, int number) => edge.Face switch
    {
        { Shape: Circle3D c, Internal: var hole } => Invariant($"{(hole ? "Hole" : "Disc")} ø{2 * c.Radius:0.###}"),
        { Shape: Slot3D s, Internal: var hole } => Invariant($"{(hole ? "Slot" : "Tab")} {s.Length:0.###} × {s.Width:0.###}"),
        var line => Invariant($"Trim line, {line.End - line.Start:0.#} long"),
    } + (number > 0 ? Invariant($" no. {number}") : "") + ", edge";

    /// <summary>All walls along that closed border of a side on which the picked ones stand.</summary>
    private static int[] Opening(NominalModel nominal, IReadOnlyList<int> picked, int side)
    {
        var left = nominal.Edges.Where(e => e.Faces.Contains(side)).ToList();
        var walls = new SortedSet<int>();
        var ends = new List<Vector3D>();
        bool Joins(NominalEdge e) => e.Faces.Any(picked.Contains) || Ends(e).Any(p => ends.Any(q => Vector3D.Distance(p, q) < SamePlace));
        while (left.FirstOrDefault(Joins) is { } next)
        {
            left.Remove(next);
            ends.AddRange(Ends(next));
            walls.UnionWith(next.Faces.Where(f => f != side));
        }

        return [.. walls];
    }

    private static Vector3D[] Ends(NominalEdge edge) =>
        [Vector3D.FromArray(edge.Points[..3]), Vector3D.FromArray(edge.Points[^3..])];
}

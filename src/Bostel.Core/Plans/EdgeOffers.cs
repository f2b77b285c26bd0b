using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using static System.FormattableString;

namespace Bostel.Core.Plans;

/// <summary>The edges of sheet sides that picked faces make: of themselves, or of the whole opening that they belong to.</summary>
public static class EdgeOffers
{
    private const double SamePlace = 1e-5;

    /// <summary>A sheet is at least so many times as wide as it is thick.</summary>
    private const double Slenderness = 10;

    /// <summary>
    /// Features measured from edges, those on the side with the longest border first; none when the faces make none. Of a side of a sheet,
    /// all its edges that the plan has not.
    /// </summary>
    /// <param name="faces">The walls, or some of them; or one side of a sheet.</param>
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
            // A cut through the sheet that was picked is no side of it.
            if (faces.Any(f => IsCut(nominal, side, f, borders)))
            {
                continue;
            }

            // The whole opening first: one side of a slot is more often meant for the slot than for a trim line.
            int[] opening = Opening(nominal, faces, side);
            int[][] asked = faces.ToHashSet().SetEquals(opening) ? [opening] : [opening, [.. faces]];
            offers.AddRange(asked.Select(walls => Edge(nominal, plan, walls, side)).OfType<FeaturePlan>());
        }

        return faces.Count == 1 ? [.. offers, .. EdgesOf(nominal, plan, faces[0], borders)] : offers;
    }

    /// <summary>All edges of a side of a sheet that the plan has not: openings whole, straight cuts each by itself.</summary>
    private static List<FeaturePlan> EdgesOf(NominalModel nominal, InspectionPlan plan, int side, FaceBorders borders)
    {
        var made = new List<FeaturePlan>();
        var seen = new HashSet<int>();
        foreach (var wall in borders.Adjoining([side]).Where(w => IsCut(nominal, w, side, borders)).Order())
        {
            if (!seen.Add(wall))
            {
                continue;
            }

            var opening = Opening(nominal, [wall], side);
            var now = plan with { Features = [.. plan.Features, .. made] };
            var whole = Edge(nominal, now, opening, side);
            seen.UnionWith(whole is null ? [] : opening);
            if ((whole ?? Edge(nominal, now, [wall], side)) is { } edge
                && !plan.Features.Any(f => f.EdgeOf == side && f.Faces.ToHashSet().SetEquals(edge.Faces)))
            {
                made.Add(edge);
            }
        }

        return made;
    }

    /// <summary>Whether a face is a cut through a sheet that this is a side of: it ends squarely at the other side too, close by.</summary>
    private static bool IsCut(NominalModel nominal, int wall, int side, FaceBorders borders)
    {
        if (nominal.Face(side) is not { Shape: Plane3D plane, Area: var area } || nominal.Face(wall).Area > area)
        {
            return false;
        }

        return EdgeNominal.SidesOf([wall], nominal, borders) is var sides && sides.Contains(side) && sides.Any(f =>
            nominal.Face(f).Shape is Plane3D other && other.Normal.Dot(plane.Normal) < 0
            && Slenderness * Math.Abs(plane.Distance(other.Point)) <= Math.Sqrt(Math.Min(area, nominal.Face(f).Area)));
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

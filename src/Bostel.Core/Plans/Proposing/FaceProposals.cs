using Bostel.Core.Geometry;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>
/// What faces propose by themselves: datums that fit the main ones, sizes and places of holes, patterns at once, flatness of main faces, a
/// profile over all, with the plan's general tolerances; where it has none, ISO 2768-mK to begin from.
/// </summary>
internal static class FaceProposals
{
    /// <summary>A face of less than this share of the surface is no main one.</summary>
    private const double MainShare = 0.02;

    private const int MostPlanes = 8, MostRounds = 40;

    /// <summary>Directions nearer than this are one, rad; diameters, mm.</summary>
    private const double Parallel = 1e-4, SameSize = 1e-3;

    /// <summary>Holes nearer to each other tell no turn, mm.</summary>
    private const double LeastApart = 1;

    public static void Add(ProposalDraft draft)
    {
        var (nominal, doubts) = (draft.Nominal, draft.Doubts);
        var whole = nominal.Mesh.Area();
        var planes = draft.Surfaces.Where(f => f.Face.Shape is Plane3D && f.Area > MainShare * whole).Take(MostPlanes).ToList();
        var rounds = draft.Surfaces.Where(f => f.IsWhole).ToList();
        if (rounds.Count > MostRounds)
        {
            doubts.Add($"{rounds.Count - MostRounds} of {rounds.Count} round faces are left out, the smallest.");
            rounds = [.. rounds.Take(MostRounds)];
        }

        // Holes that are alike are numbered round their middle.
        foreach (var group in Alike(rounds).Where(g => g.Count > 1))
        {
            foreach (var (i, f) in InTurn(group).Index())
            {
                draft.FeatureOf(f, i + 1);
            }
        }

        if (!draft.AllDatums.Any())
        {
            foreach (var (i, f) in DatumsAmong(planes, rounds).Index())
            {
                draft.Define(new(((char)('A' + i)).ToString(), [draft.IdOf(f)]));
            }
        }

        string[] labels = [.. draft.AllDatums.Select(d => d.Label).Take(3)];
        HashSet<string> held = [.. draft.AllDatums.SelectMany(d => d.Features)];
        planes.ForEach(f => draft.Add(no => new FlatnessPlan(no, $"{draft.NameOf(f)} flatness")
        { Features = [draft.IdOf(f)], Tolerance = UsualTolerances.OfForm(draft.Extent(f)) }));
        rounds.ForEach(f => draft.Add(no => Proposals.Sized(
            new DiameterPlan(no, $"{draft.NameOf(f)} diameter") { Features = [draft.IdOf(f)] }, 2 * f.Radius)));
        foreach (var group in Alike(rounds.Where(f => !held.Contains(draft.IdOf(f)))).Where(_ => labels.Length > 0).Select(InTurn))
        {
            string[] of = [.. group.Select(draft.IdOf)];
            var what = group.Count == 1 ? draft.NameOf(group[0]) : $"{draft.NameOf(group[0])} and {group.Count - 1} more";
            draft.Add(no => new PositionPlan(no, $"{what} position")
            { Features = of, Datums = labels, Tolerance = 2 * UsualTolerances.OfLength(group.Max(draft.Extent)) });
        }

        // A general profile holds for what has no geometrical tolerance of its own (ISO 22081, 4.1).
        var isGeneral = draft.General?.OfProfile is not null;
        int[] under = [.. isGeneral ? draft.FacesWithoutTolerance() : nominal.Faces.Select(f => f.Id)];
        if (under.Length > 0)
        {
            draft.Add(no => new SurfaceProfilePlan(no, isGeneral ? "General profile" : "Profile all over")
            {
                Faces = under,
                Datums = labels,
                Tolerance = Math.Round(draft.Compare.Upper - draft.Compare.Lower, 6),
            });
        }

        var free = nominal.Faces.Count(f => f.Shape is null);
        if (free > 0)
        {
            doubts.Add($"{free} freeform face{(free == 1 ? "" : "s")}: under the profile only.");
        }

        if (labels.Length < 3)
        {
            doubts.Add($"{labels.Length} datum{(labels.Length == 1 ? "" : "s")} found: what they leave free makes values least.");
        }
    }

    /// <summary>The largest plane; the largest plane square to it, or bore along it; a third that holds what is left.</summary>
    private static IReadOnlyList<ProposedSurface> DatumsAmong(List<ProposedSurface> planes, List<ProposedSurface> rounds)
    {
        if (planes.Count == 0)
        {
            return [.. rounds.Take(1)];
        }

        var a = planes[0];
        List<ProposedSurface> along = [.. rounds.Where(r => r.Axis.LineAngleTo(a.Normal) < Parallel)];
        var square = planes.FirstOrDefault(p => IsSquare(p, a));
        var third = square is null ? null : planes.FirstOrDefault(p => IsSquare(p, a) && IsSquare(p, square));
        if (square is not null && third is not null)
        {
            return [a, square, third];
        }

        if (along.Count == 0)
        {
            return square is null ? [a] : [a, square];
        }

        if (square is not null)
        {
            return [a, along[0], square];
        }

        // A bore and, farthest from it, a hole along it that tells the turn.
        var far = along.MaxBy(r => Apart(r, along[0]))!;
        return Apart(far, along[0]) > LeastApart ? [a, along[0], far] : [a, along[0]];
    }

    private static double Apart(ProposedSurface f, ProposedSurface other) =>
        ((Cylinder3D)f.Face.Shape!).AxisLine.Distance(((Cylinder3D)other.Face.Shape!).Point);

    /// <summary>Holes of one size along one direction; those of another kind stand alone.</summary>
    private static List<List<ProposedSurface>> Alike(IEnumerable<ProposedSurface> rounds)
    {
        var groups = new List<List<ProposedSurface>>();
        foreach (var f in rounds)
        {
            var group = groups.FirstOrDefault(g => g[0].Surface.Kind == f.Surface.Kind
                && Math.Abs(g[0].Radius - f.Radius) < SameSize / 2 && g[0].Axis.LineAngleTo(f.Axis) < Parallel);
            if (group is null)
            {
                groups.Add([f]);
            }
            else
            {
                group.Add(f);
            }
        }

        return groups;
    }

    private static List<ProposedSurface> InTurn(List<ProposedSurface> group)
    {
        var middle = group.Aggregate(Vector3D.Zero, (sum, f) => sum + (f.Face.Center / group.Count));
        var (u, v) = (group[0].Axis.Perpendicular(), group[0].Axis.Cross(group[0].Axis.Perpendicular()));
        return [.. group.OrderBy(f => Math.Atan2((f.Face.Center - middle).Dot(v), (f.Face.Center - middle).Dot(u)))];
    }

    private static bool IsSquare(ProposedSurface a, ProposedSurface b) => Math.Abs(a.Normal.Dot(b.Normal)) < Parallel;
}

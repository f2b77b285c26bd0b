using Bostel.Core.Geometry;

namespace Bostel.Core.Alignment;

/// <summary>
/// A first pose from datums in any position: two directions, or a direction and two places, or three places (Black 1964; Horn 1987).
/// </summary>
internal static class DatumStart
{
    private const double Parallel = 0.05;

    public static RigidTransform For(IReadOnlyList<DatumPair> pairs)
    {
        var turn = Turn(pairs);
        var first = pairs[0];
        return turn with { Translation = DatumAlignment.NominalPlace(first.Nominal) - turn.Rotate(DatumAlignment.MeasuredPlace(first)) };
    }

    private static RigidTransform Turn(IReadOnlyList<DatumPair> pairs)
    {
        var directions = pairs.Where(p => DatumAlignment.DirectionOf(p.Measured) is not null)
            .Select(p => (From: DatumAlignment.DirectionOf(p.Measured)!.Value, To: DatumAlignment.DirectionOf(p.Nominal)!.Value))
            .Concat(pairs.Where(p => p is { Measured: Slot3D, Nominal: Slot3D })
                .Select(p => (((Slot3D)p.Measured).Direction, ((Slot3D)p.Nominal).Direction))).ToList();
        if (directions.Count == 0)
        {
            return pairs.Count >= 3
                ? PointPairs.Fit(
                    [.. pairs.Select(p => new PointPair(
                    DatumAlignment.MeasuredPlace(p), DatumAlignment.NominalPlace(p.Nominal)))]).Transform with
                { Translation = default }
                : pairs.Count == 2 ? RigidTransform.Between(
                    Between(pairs[0], pairs[1]).From.Normalized(), Between(pairs[0], pairs[1]).To.Normalized()) : RigidTransform.Identity;
        }

        var (from, to) = directions[0];
        foreach (var (a, b) in directions.Skip(1))
        {
            if (a.Cross(from).Length > Parallel && b.Cross(to).Length > Parallel)
            {
                return Frame(to, b).After(Frame(from, a).Inverse());
            }
        }

        // Only one direction: the line from one place to the next, across it.
        var placed = pairs.Where(p => p.Nominal is not Plane3D).ToList();
        for (var i = 1; i < placed.Count; i++)
        {
            var (a, b) = Between(placed[0], placed[i]);
            if (a.Cross(from).Length > 1e-6 && b.Cross(to).Length > 1e-6)
            {
                return Frame(to, b).After(Frame(from, a).Inverse());
            }
        }

        return RigidTransform.Between(from, to);
    }

    private static (Vector3D From, Vector3D To) Between(DatumPair a, DatumPair b) => (
        DatumAlignment.MeasuredPlace(b) - DatumAlignment.MeasuredPlace(a),
        DatumAlignment.NominalPlace(b.Nominal) - DatumAlignment.NominalPlace(a.Nominal));

    private static RigidTransform Frame(Vector3D first, Vector3D second)
    {
        var z = first.Cross(second).Normalized();
        return RigidTransform.FromAxes(first, z.Cross(first), z, Vector3D.Zero);
    }
}

using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using static System.FormattableString;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// Profile of a surface (ISO 1660): twice the greatest deviation from the nominal surface, in the datum system; what no datum holds is
/// free. What grows from the faces beyond the search distance deviates by its distance from the nominal at the least.
/// </summary>
internal static class Profile
{
    /// <summary>Fewer points tell no profile.</summary>
    private const int Fewest = 10;

    public static Evaluated Surface(SurfaceProfilePlan plan, EvaluationContext context)
    {
        if (plan.Faces.Length == 0)
        {
            throw new BadInputException($"Characteristic {plan.No}: no faces are named for the profile.");
        }

        var scan = context.Scan;
        var vertices = FeatureExtraction.VerticesOn(plan.Faces, scan, context.Nominal, context.Deviation.MaxDistance);
        if (vertices.Count < Fewest)
        {
            throw new BadInputException($"Characteristic {plan.No}: only {vertices.Count} scan points lie on its faces.");
        }

        var system = plan.Datums.Length > 0 ? context.System(plan.Datums) : null;
        var free = plan.AsAligned || !scan.Mesh.HasNormals ? []
            : system?.FreeMotions ?? FreeZone.Everything(context.Nominal.Mesh.Bounds);
        var start = (system?.Transform ?? RigidTransform.Identity).After(scan.Transform);
        var middle = plan.ZoneOffset ?? 0;
        var (pose, rows) = FreeZone.Best(
            start, free, t => [.. Rows(vertices, context, t).Select(r => r with { Distance = r.Distance - middle })], plan.FreeOffset);
        var values = rows.Select(r => r.Distance).ToArray();
        var worst = Array.IndexOf(values, values.MaxBy(Math.Abs));
        var (low, high) = (values.Min(), values.Max());
        var at = scan.Transform.Apply(scan.Mesh.Vertex(vertices[worst]));
        var normal = scan.Mesh.HasNormals ? scan.Transform.Rotate(scan.Mesh.Normal(vertices[worst])) : Vector3D.UnitZ;
        var points = FeatureExtraction.Coordinates(scan, vertices);
        var surface = context.RawOnly ? null : SurfaceNoise.Of(points, [.. vertices.Select(scan.Beside.AreaOf)], values, new(points));
        var place = (system is not null ? $"datums {system.Words}" : free.Count > 0 ? "no datums" : context.AlignedBy) + Words.Freed(free);
        Func<double, double, double> zone = plan.FreeOffset ? Extreme.Width : Extreme.Doubled;
        var evaluated = Extreme.Of(zone(low, high), surface?.Form ?? values, surface?.Noise, zone,
            system?.Contributions(rows[worst].At.ToArray(), _ => rows[worst].Along, Extreme.Doubled) ?? [],
            $"twice the greatest deviation of {plan.Faces.Length} face{(plan.Faces.Length == 1 ? "" : "s")}"
                + (plan.FreeOffset ? " from one offset of the nominal" : Words.Offset(plan.ZoneOffset)) + $", {place}", []);
        return evaluated with
        {
            Value = Math.Max(evaluated.Value, 2 * Doubts.Against(plan.Faces, [], context).Where(a => a.Beside.Count > 0)
                .Select(a => a.Reach).DefaultIfEmpty(0).Max()),
            Device = new(2, Box3D.Of(points.Chunk(3).Select(Vector3D.FromArray)).Diagonal, 2),
            Datums = system?.Features ?? [],
            Points = vertices.Count,
            Coverage = new FaceSamples(plan.Faces, context.Nominal, null).Covered(scan, vertices).Share,
            Remark = Invariant($"deviations from {low + middle:0.000} to {high + middle:0.000} mm"),
            View = new(at.ToArray(), normal.ToArray(), 0.35 * context.Nominal.Mesh.Bounds.Diagonal),
        };
    }

    /// <summary>
    /// Profile of a line: twice the greatest deviation of the cut from the nominal's in a section, in the datum system; what no datum holds
    /// stays as aligned.
    /// </summary>
    public static Evaluated Line(LineProfilePlan plan, EvaluationContext context)
    {
        var system = plan.Datums.Length > 0 ? context.System(plan.Datums) : null;
        var sheet = context.Cut(plan.Section, system?.Transform ?? RigidTransform.Identity);
        var faces = plan.Faces.ToHashSet();
        var middle = plan.ZoneOffset ?? 0;
        var found = sheet.Scan.SelectMany(o => Enumerable.Range(0, o.Values.Length)
                .Where(i => o.Values[i] is not null && (faces.Count == 0 || faces.Contains(o.Faces[i])))
                .Select(i => (
                    Value: o.Values[i]!.Value - middle, At: o.Points[(2 * i)..((2 * i) + 2)], Foot: o.Feet[(2 * i)..((2 * i) + 2)])))
            .ToList();
        if (found.Count < Fewest)
        {
            throw new BadInputException($"Characteristic {plan.No}: only {found.Count} points of the section lie on its lines.");
        }

        var parts = sheet.Parts.Where(p => faces.Count == 0 || faces.Contains(p.Face)).ToList();
        double[] values = [.. found.Select(f => f.Value)];
        var points = sheet.Frame.InSpace([.. found.SelectMany(f => f.At)]);
        var area = Math.Pow(context.Scan.Beside.Spacing, 2);
        var surface = context.RawOnly ? null : SurfaceNoise.Of(points, [.. values.Select(_ => area)], values, new(points));
        var (low, high) = (values.Min(), values.Max());
        var worst = found[Array.IndexOf(values, values.MaxBy(Math.Abs))];
        var at = sheet.Frame.InSpace(worst.At);

        // Errors of the datums count as they shift the worst point away from where it belongs.
        var off = Vector3D.FromArray(at) - Vector3D.FromArray(sheet.Frame.InSpace(worst.Foot));
        var along = off.Length > 0 ? off.Normalized() : Vector3D.FromArray(sheet.Frame.Up);
        return Extreme.Of(Extreme.Doubled(low, high), surface?.Form ?? values, surface?.Noise, Extreme.Doubled,
            system?.Contributions(at, _ => along, Extreme.Doubled) ?? [],
            $"section '{plan.Section}': twice the greatest deviation{Words.Offset(plan.ZoneOffset)}, "
                + (system is null ? context.AlignedBy : $"datums {system.Words}"), [])
            with
        {
            Device = new(2, Box3D.Of(points.Chunk(3).Select(Vector3D.FromArray)).Diagonal, 2),
            Datums = system?.Features ?? [],
            Points = found.Count,
            Coverage = parts.Count == 0 ? 0 : parts.Sum(p => p.Coverage * Length(p)) / parts.Sum(Length),
            Faces = [.. parts.Select(p => p.Face).Distinct()],
            Remark = Invariant(
                $"deviations from {low + middle:0.000} to {high + middle:0.000} mm"),
            View = new(at, sheet.Frame.Normal, 0.35 * context.Nominal.Mesh.Bounds.Diagonal),
        };

        static double Length(SectionPart part) => part.Run.Length / 2 > 1
            ? Enumerable.Range(1, (part.Run.Length / 2) - 1).Sum(i => Math.Sqrt(
                Math.Pow(part.Run[2 * i] - part.Run[(2 * i) - 2], 2) + Math.Pow(part.Run[(2 * i) + 1] - part.Run[(2 * i) - 1], 2)))
            : 0;
    }

    /// <summary>Deviations at a pose. What has no counterpart there keeps the one it had when it was assigned to its face.</summary>
    private static ZoneRow[] Rows(List<int> vertices, EvaluationContext context, RigidTransform pose)
    {
        var scan = context.Scan;
        var values = pose == scan.Transform
            ? [.. vertices.Select(v => scan.Deviations.Values[v])]
            : Deviation.Compute(scan.Mesh, pose, context.Nominal, context.Tree, context.Deviation, vertices);
        return [.. vertices.Select((v, i) => new ZoneRow(
            double.IsNaN(values[i]) ? scan.Deviations.Values[v] : values[i], pose.Apply(scan.Mesh.Vertex(v)),
            scan.Mesh.HasNormals ? pose.Rotate(scan.Mesh.Normal(v)) : Vector3D.Zero))];
    }
}

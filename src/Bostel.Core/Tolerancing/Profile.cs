using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// Profile of a surface (ISO 1660): twice the greatest deviation from the nominal surface, in the datum system; what no datum holds is
/// free. What grows from the faces beyond the search distance deviates by its distance from the nominal at the least.
/// </summary>
internal static class Profile
{
    public static Evaluated Surface(SurfaceProfilePlan plan, EvaluationContext context)
    {
        if (plan.Faces.Length == 0)
        {
            throw new BadInputException($"Characteristic {plan.No}: no faces are named for the profile.");
        }

        var scan = context.Scan;
        var vertices = FeatureExtraction.VerticesOn(plan.Faces, scan, context.Nominal, context.Deviation.MaxDistance);
        if (vertices.Count < 10)
        {
            throw new BadInputException($"Characteristic {plan.No}: only {vertices.Count} scan points lie on its faces.");
        }

        var system = plan.Datums.Length > 0 ? context.System(plan.Datums) : null;
        var free = plan.AsAligned || !scan.Mesh.HasNormals ? []
            : system?.FreeMotions ?? FreeZone.Everything(context.Nominal.Mesh.Bounds);
        var start = (system?.Transform ?? RigidTransform.Identity).After(scan.Transform);
        var (pose, rows) = FreeZone.Best(start, free, t => Rows(vertices, context, t));
        var values = rows.Select(r => r.Distance).ToArray();
        var worst = Array.IndexOf(values, values.MaxBy(Math.Abs));
        var (low, high) = (values.Min(), values.Max());
        var at = scan.Transform.Apply(scan.Mesh.Vertex(vertices[worst]));
        var normal = scan.Mesh.HasNormals ? scan.Transform.Rotate(scan.Mesh.Normal(vertices[worst])) : Vector3D.UnitZ;
        var points = FeatureExtraction.Coordinates(scan, vertices);
        var surface = context.RawOnly ? null : SurfaceNoise.Of(points, [.. vertices.Select(scan.Beside.AreaOf)], values, new(points));
        var place = (system is not null ? $"datums {system.Words}" : free.Count > 0 ? "no datums" : context.AlignedBy) + Words.Freed(free);
        var evaluated = Extreme.Of(Extreme.Doubled(low, high), surface?.Form ?? values, surface?.Noise, Extreme.Doubled,
            system?.Contributions(rows[worst].At.ToArray(), _ => rows[worst].Along, Extreme.Doubled) ?? [],
            $"twice the greatest deviation of {plan.Faces.Length} face{(plan.Faces.Length == 1 ? "" : "s")}, {place}", []);
        return evaluated with
        {
            Value = Math.Max(evaluated.Value, 2 * Doubts.Against(plan.Faces, [], context).Where(a => a.Beside.Count > 0)
                .Select(a => a.Reach).DefaultIfEmpty(0).Max()),
            Device = new(2, Box3D.Of(points.Chunk(3).Select(Vector3D.FromArray)).Diagonal, 2),
            Datums = system?.Features ?? [],
            Points = vertices.Count,
            Coverage = new FaceSamples(plan.Faces, context.Nominal, null).Covered(scan, vertices).Share,
            Remark = string.Create(System.Globalization.CultureInfo.InvariantCulture, $"deviations from {low:0.000} to {high:0.000} mm"),
            View = new(at.ToArray(), normal.ToArray(), 0.35 * context.Nominal.Mesh.Bounds.Diagonal),
        };
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

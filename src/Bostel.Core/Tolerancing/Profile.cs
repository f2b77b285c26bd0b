using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>
/// Profile of a surface (ISO 1660): twice the greatest deviation from the nominal surface, in the datum system or the alignment.
/// </summary>
internal static class Profile
{
    public static Evaluated Surface(CharacteristicPlan plan, EvaluationContext context)
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
        var (values, worst) = Deviations(vertices, context, system);
        var (low, high) = (values.Where(v => !double.IsNaN(v)).Min(), values.Where(v => !double.IsNaN(v)).Max());
        var at = scan.Transform.Apply(scan.Mesh.Vertex(vertices[worst]));
        var normal = scan.Transform.Rotate(scan.Mesh.TriangleCount > 0 ? scan.Mesh.Normal(vertices[worst]) : Vector3D.UnitZ);
        var sigma = 2 * (system?.SigmaAt(at) ?? 0);
        var place = system is null ? context.AlignedBy : $"datums {system.Labels}";
        return new(2 * Math.Max(Math.Abs(low), Math.Abs(high)), sigma, $"greatest deviation of {plan.Faces.Length} faces, {place}", [])
        {
            DeviceFactor = 2,
            Points = vertices.Count,
            Remark = string.Create(System.Globalization.CultureInfo.InvariantCulture, $"deviations from {low:0.000} to {high:0.000} mm"),
            View = new(at.ToArray(), normal.ToArray(), 0.35 * context.Nominal.Mesh.Bounds.Diagonal),
        };
    }

    private static (double[] Values, int Worst) Deviations(List<int> vertices, EvaluationContext context, DatumSystem? system)
    {
        var scan = context.Scan;
        var values = vertices.Select(v => scan.Deviations.Values[v]).ToArray();
        if (system is not null)
        {
            // Only the chosen vertices are compared anew, in the datum system.
            values = Deviation.Compute(
                scan.Mesh, system.Transform.After(scan.Transform), context.Nominal, context.Tree, context.Deviation, vertices);
        }

        var worst = 0;
        for (var i = 1; i < values.Length; i++)
        {
            worst = double.IsNaN(values[worst]) || Math.Abs(values[i]) > Math.Abs(values[worst]) ? i : worst;
        }

        return (values, worst);
    }
}

using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>Run-out about a datum axis (ISO 1101, 18.16; ASME Y14.5, 12): radial of round surfaces, axial of faces square to it.</summary>
internal static class RunOut
{
    /// <summary>A face farther than this from square to the axis has no axial run-out, rad.</summary>
    private const double MostOffSquare = 0.02;

    /// <param name="total">Over the whole surface, instead of the widest cross-section.</param>
    public static Evaluated Of(FeatureResult f, DatumSystem system, bool total)
    {
        var axis = AxisOf(system);
        var surface = Form.Prepared(f, null).Moved(system.Transform);
        var shape = f.Shape.Transformed(system.Transform);
        if (shape is Plane3D face)
        {
            return f.NominalDirection!.Value.LineAngleTo(axis.Direction) < MostOffSquare
                ? Axial(f, surface, face, axis, system, total)
                : throw new BadInputException($"{f.Plan.Name} does not stand square to the axis of datum {system.FirstLabel}.");
        }

        return shape is Cylinder3D or Cone3D or Sphere3D
            ? Radial(f, surface, shape, axis, system, total)
            : throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no run-out.");
    }

    /// <summary>Greatest less least; of several cross-sections that of the widest.</summary>
    public static double Widest(IEnumerable<double[]> sections) => sections.Max(s => s.Max() - s.Min());

    private static Evaluated Radial(
        FeatureResult f, EvaluatedSurface surface, Shape shape, Line3D axis, DatumSystem system, bool total)
    {
        Vector3D Outward(Vector3D p) => (p - axis.Project(p)).Normalized();
        if (total && shape is not Cylinder3D)
        {
            throw new BadInputException($"{f.Plan.Name}: total run-out of a {f.Nominal.Kind} is not radial; ask for circular run-out.");
        }

        return total
            ? Whole(surface, p => axis.Distance(p), Outward, "total radial run-out", f, system)
            : Worst(Rings.Across(f, surface.Points, shape, axis), Rings.Across(f, surface.Smooth, shape, axis), surface, Outward,
                "circular radial run-out", f, system);
    }

    private static Evaluated Axial(
        FeatureResult f, EvaluatedSurface surface, Plane3D face, Line3D axis, DatumSystem system, bool total) => total
        ? Whole(surface, p => (p - axis.Point).Dot(axis.Direction), _ => axis.Direction, "total axial run-out", f, system)
        : Worst(Rings.Around(f, surface.Points, face, axis), Rings.Around(f, surface.Smooth, face, axis), surface, _ => axis.Direction,
            "circular axial run-out", f, system);

    private static Evaluated Whole(
        EvaluatedSurface surface, Func<Vector3D, double> value, Func<Vector3D, Vector3D> along, string what, FeatureResult f,
        DatumSystem system)
    {
        double[] Values(double[] points) => [.. points.Chunk(3).Select(p => value(Vector3D.FromArray(p)))];
        var smooth = surface.Smooth;
        return Extreme.Of(Widest([Values(surface.Points)]), Values(smooth), surface.Noise, Extreme.Width,
            system.Contributions(smooth, i => along(Vector3D.At(smooth, i)), Extreme.Width),
            $"{what} about {system.Words}", [f])
        with
        { Device = new(0, 0, 1), Datums = system.Features };
    }

    private static Evaluated Worst(
        IReadOnlyList<Ring> rings, IReadOnlyList<Ring> smooth, EvaluatedSurface surface, Func<Vector3D, Vector3D> along, string what,
        FeatureResult f, DatumSystem system)
    {
        var widest = rings.MaxBy(r => r.Values.Max() - r.Values.Min())!;
        double[] at = [.. widest.Points.SelectMany(i => Vector3D.At(surface.Smooth, i).ToArray())];
        return Extreme.OfWidest(Widest(rings.Select(r => r.Values)), [.. smooth.Select(r => r.Values)], surface.Noise,
            system.Contributions(at, i => along(Vector3D.At(at, i)), Extreme.Width),
            $"{what} about {system.Words}, the widest of {rings.Count} cross-sections", [f])
        with
        {
            Device = new(0, 0, 1),
            Datums = system.Features,
            Remark = widest.Words,
        };
    }

    /// <summary>The axis that the first datum gives, in nominal coordinates.</summary>
    private static Line3D AxisOf(DatumSystem system) => system.Features[0].NominalAxis is { } axis && !system.First.IsPlane
        ? axis
        : throw new BadInputException($"Datum {system.FirstLabel} gives no axis: run-out is measured about one.");
}

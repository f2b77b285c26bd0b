using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>Position to a datum system (ISO 5458, ISO 5459): twice the greatest distance from the true place.</summary>
internal static class Location
{
    /// <summary>
    /// Axis: cut by the planes through the ends of the nominal axis. Sphere: its centre. Plane: its points along the nominal normal. With
    /// datums that leave freedom, the rest stays as the alignment has it.
    /// </summary>
    public static Evaluated Position(FeatureResult f, DatumSystem system)
    {
        var t = system.Transform;
        var remark = system.FreeDegrees > 0 ? $"{system.FreeDegrees} degrees of freedom are left to the alignment" : null;
        switch (f.Shape)
        {
            case Sphere3D sphere:
                var off = (t.Apply(sphere.Center) - ((Sphere3D)f.Nominal.Shape!).Center).Length;
                return Result(2 * off, f.PositionSigma, sphere.Center, "spherical zone");
            case Plane3D:
                var nominal = (Plane3D)f.Nominal.Shape!;
                double most = 0;
                for (var i = 0; i < f.Points.Length; i += 3)
                {
                    most = Math.Max(most, Math.Abs(nominal.Distance(t.Apply(new(f.Points[i], f.Points[i + 1], f.Points[i + 2])))));
                }

                return Result(2 * most, f.Scatter, nominal.Point, "zone between planes");
            default:
                if (f.Axis is null)
                {
                    throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no place.");
                }

                var (start, end) = Orientation.Ends(f with { Shape = f.Shape.Transformed(t) });
                var axis = f.NominalAxis!;
                var half = 0.5 * (end - start).Length;
                var sigma = Math.Sqrt((f.PositionSigma * f.PositionSigma) + (half * half * f.DirectionSigma * f.DirectionSigma));
                return Result(2 * Math.Max(axis.Distance(start), axis.Distance(end)), sigma, start,
                    $"axis of {Words.Of(f.Criterion)} {f.Nominal.Kind}, cylindrical zone");
        }

        Evaluated Result(double value, double sigma, Vector3D at, string method) =>
            new(value, 2 * Math.Sqrt((sigma * sigma) + Math.Pow(system.SigmaAt(at), 2)), $"{method}, datums {system.Labels}",
                [f])
            { DeviceFactor = 2, Remark = remark };
    }
}

using Bostel.Core.Features;
using Bostel.Core.Fitting;
using Bostel.Core.Geometry;
using Bostel.Core.Spatial;

namespace Bostel.Core.Tolerancing;

/// <summary>Form by the minimum zone (ISO 1101, ISO 12781-1, ISO 12180-1), on the raw or the filtered points.</summary>
internal static class Form
{
    public static Evaluated Flatness(FeatureResult f, double? filter)
    {
        if (f.Shape is not Plane3D)
        {
            throw new BadInputException($"{f.Plan.Name}: flatness belongs to a plane, not to a {f.Nominal.Kind}.");
        }

        var surface = Prepared(f, filter);
        return Width(ExtremalFit.MinimumZonePlane(surface.Points).Form, surface, "minimum-zone plane" + Words.Filter(filter), f);
    }

    public static Evaluated Cylindricity(FeatureResult f, double? filter)
    {
        if (f.Shape is not Cylinder3D cylinder)
        {
            throw new BadInputException($"{f.Plan.Name}: cylindricity belongs to a cylinder, not to a {f.Nominal.Kind}.");
        }

        var surface = Prepared(f, filter);
        var zone = ExtremalFit.Cylinder(surface.Points, Criterion.MinimumZone, new() { Start = cylinder }).Form;
        return Width(zone, surface, "minimum-zone cylinder" + Words.Filter(filter), f);
    }

    /// <summary>Roundness (ISO 12181-1): the widest minimum zone between concentric circles, of the cross-sections of a surface.</summary>
    public static Evaluated Roundness(FeatureResult f, double? filter)
    {
        if (f.Shape is not (Cylinder3D or Cone3D or Sphere3D))
        {
            throw new BadInputException($"{f.Plan.Name}: roundness belongs to a cylinder, a cone or a sphere, not to a {f.Nominal.Kind}.");
        }

        var surface = Prepared(f, filter);
        var axis = f.Axis is { } own ? own : new(((Sphere3D)f.Shape).Center, Vector3D.UnitZ);
        var rings = Rings.Across(f, surface.Points, f.Shape, axis);
        var zones = rings.Select(r => r.Zone()).ToList();
        var smooth = Rings.Across(f, surface.Smooth, f.Shape, axis);
        return Extreme.OfWidest(zones.Max(), [.. smooth.Select(r => r.Centred())], surface.Noise, [],
            $"minimum-zone circles, the widest of {rings.Count} cross-sections" + Words.Filter(filter), [f])
        with
        {
            Device = new(0, 0, 1),
            Remark = rings[zones.IndexOf(zones.Max())].Words,
        };
    }

    /// <summary>Straightness of a cylinder's axis: the smallest cylinder that holds its extracted median line (ISO 12780-1).</summary>
    public static Evaluated StraightnessOfAxis(FeatureResult f)
    {
        if (f.Shape is not Cylinder3D || AxisPlaces.Of(f, straight: false) is not { Smooth: not null } places)
        {
            throw new BadInputException(
                $"{f.Plan.Name}: straightness of an axis needs a cylinder with points all round in three cross-sections at least.");
        }

        var axis = f.Axis!;

        var heights = places.Places.Select(p => (p - axis.Point).Dot(axis.Direction)).ToArray();
        var (value, raw, budget) = new LineZone(
            v => v - (v.Dot(axis.Direction) * axis.Direction), off => SmallestCylinder.Diameter(off, heights, axis.Direction))
            .Of(f, places, RigidTransform.Identity, [.. places.Places.Select(axis.Project)], null);
        return new(value, budget, $"{places.Words}, smallest cylinder", [f]) { Raw = raw, Device = new(0, 0, 1) };
    }

    /// <summary>Straightness of a surface's lines in planes through its axis (ISO 12780-1): the widest minimum zone of them.</summary>
    public static Evaluated StraightnessOfLines(FeatureResult f, double? filter)
    {
        if (f.Shape is not (Cylinder3D or Cone3D))
        {
            throw new BadInputException($"{f.Plan.Name}: lines along an axis belong to a cylinder or a cone, not to a {f.Nominal.Kind}.");
        }

        var surface = Prepared(f, filter);
        var lines = SurfaceLines.Of(surface.Points, f.Shape.Distances(surface.Points), f.Axis!);
        var smooth = SurfaceLines.Of(surface.Smooth, f.Shape.Distances(surface.Smooth), f.Axis!);
        return Extreme.OfWidest(lines.Max(l => l.Zone()), [.. smooth.Select(l => l.Straightened())], surface.Noise, [],
            $"minimum zones between lines, the widest of {lines.Count} along the axis" + Words.Filter(filter), [f])
        with
        { Device = new(0, 0, 1) };
    }

    private static Evaluated Width(double raw, EvaluatedSurface surface, string method, FeatureResult f) =>
        Extreme.Of(raw, surface.Form, surface.Noise, Extreme.Width, [], method, [f]) with { Device = new(0, 0, 1) };

    /// <summary>
    /// The feature's points, moved along their normals to the filtered residuals when a filter is named; the surface without noise, and the
    /// noise left in a single point: of a filtered one over the square root of the independent points that it rests on.
    /// </summary>
    /// <exception cref="BadInputException">An edge or a constructed feature has no surface.</exception>
    internal static EvaluatedSurface Prepared(FeatureResult f, double? filter)
    {
        if (!f.IsSurface)
        {
            throw new BadInputException(
                $"{f.Plan.Name} is {(f.Construction is null ? "an edge" : "constructed")}: it has no surface whose form could be told.");
        }

        var tree = new PointTree(f.Points);
        var residuals = f.Shape.Distances(f.Points);
        var noise = SurfaceNoise.Of(f.Points, f.Areas, residuals, tree);
        if (noise is null)
        {
            return new(f.Points, residuals, f.Points, null);
        }

        if (filter is not { } nestingIndex)
        {
            return new(f.Points, noise.Form, Moved(noise.Form), noise.Noise);
        }

        // A filtered surface holds the noise left in it: it is its own form, and no better one is known.
        var (filtered, support) = GaussianFilter.Apply(f.Points, f.Areas, residuals, nestingIndex);
        var rests = Math.Max(1, support * noise.Noise.Independent / residuals.Length);
        var moved = Moved(filtered);
        return new(moved, filtered, moved, new(noise.Noise.Sigma / Math.Sqrt(rests), residuals.Length / Math.Max(1, support), 1, true));

        double[] Moved(double[] to)
        {
            var moved = new double[f.Points.Length];
            for (var i = 0; i < residuals.Length; i++)
            {
                var p = Vector3D.At(f.Points, i);
                var q = p + ((to[i] - residuals[i]) * f.Shape.Gradient(p));
                (moved[3 * i], moved[(3 * i) + 1], moved[(3 * i) + 2]) = q;
            }

            return moved;
        }
    }
}

/// <summary>
/// What form and orientation are evaluated on: the points, the same without noise (as distances from the feature, <see cref="Form"/>, and
/// as points), and the noise; null where it cannot be told.
/// </summary>
internal sealed record EvaluatedSurface(double[] Points, double[] Form, double[] Smooth, PointNoise? Noise)
{
    /// <summary>The same in other coordinates.</summary>
    public EvaluatedSurface Moved(RigidTransform pose) => this with { Points = pose.ApplyAll(Points), Smooth = pose.ApplyAll(Smooth) };
}

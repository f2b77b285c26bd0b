using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Features;

/// <summary>
/// Carries out a construction on measured features. Its uncertainty is found by making it anew from each feature moved by each of its
/// independent errors, sizes included (JCGM 100:2008, 5.1.3 note 2 and H.2): correlations within a feature, and between constructions that
/// share one, are kept.
/// </summary>
internal static class Constructed
{
    /// <param name="from">What it is made from, in the plan's order.</param>
    /// <exception cref="UndeterminedException">They do not determine it, on the nominal or as measured.</exception>
    /// <exception cref="BadInputException">They are of kinds that it does not take.</exception>
    public static FeatureResult Of(ConstructionPlan plan, IReadOnlyList<FeatureResult> from)
    {
        var nominal = NominalOf(plan, [.. from.Select(f => (f.Plan.Name, f.Nominal, ExtentOf(f)))]);
        var places = from.Select(f => f.Place).ToArray();
        Shape Made(Func<FeatureResult, Shape> shapeOf) =>
            plan.Make([.. from.Select((f, i) => new Situated(f.Plan.Name, shapeOf(f), places[i]))]).OrThrow();
        var shape = FeatureExtraction.Oriented(Made(f => f.Shape), nominal.Shape!);
        var variations = from.SelectMany(f => f.Variations).Select(v => (v.Source, v.Index)).Distinct()
            .Select(key => from.SelectMany(f => f.Variations).First(v => (v.Source, v.Index) == key) with
            {
                Shape = FeatureExtraction.Oriented(Made(f => f.Varied(key.Source, key.Index)), nominal.Shape!),
            }).ToList();
        var errors = new ErrorColumns(shape, [.. variations.Select(v => v.Shape)], nominal.Center);
        return new(new(plan.Id, plan.Name, []), nominal, shape, Outline(shape, errors.At, from), [])
        {
            Construction = plan,
            From = from,
            Variations = variations,
            ErrorMotions = errors.Motions,
            PositionSigma = errors.Position,
            DirectionSigma = errors.Direction,
            RadiusSigma = errors.Radius,
            Freedom = from.Min(f => f.Freedom),
            Coverage = from.Min(f => f.Coverage),
            EffectivePoints = from.Min(f => f.EffectivePoints),
            LeftOut = LeftOut.Of(from.Select(f => f.LeftOut)),
            Vertices = [.. from.SelectMany(f => f.Vertices).Distinct()],
            LeftOutVertices = [.. from.SelectMany(f => f.LeftOutVertices).Distinct()],
            Missing = [.. from.SelectMany(f => f.Missing)],
        };
    }

    /// <summary>The same rule on the nominal.</summary>
    /// <exception cref="UndeterminedException">It is not determined there.</exception>
    public static NominalFace NominalOf(
        ConstructionPlan plan, IReadOnlyList<(string Name, NominalFace Face, IReadOnlyList<Vector3D> Extent)> from)
    {
        if (from.FirstOrDefault(f => f.Face.Shape is null) is { Name: { } freeform })
        {
            throw new BadInputException($"{plan.Name}: {freeform} is freeform; nothing can be constructed from it.");
        }

        var shape = plan.Make([.. from.Select(f => new Situated(f.Name, f.Face.Shape!, f.Face.Center))]).OrThrow();
        var extent = from.SelectMany(f => f.Extent).Select(p => ErrorColumns.On(shape, p)).ToArray();
        var center = ErrorColumns.On(shape, extent.Aggregate(Vector3D.Zero, (s, p) => s + (p / extent.Length)));
        var (start, end) = (0.0, 0.0);
        if (shape is Line3D line)
        {
            shape = line with { Point = center };
            start = extent.Min(p => (p - center).Dot(line.Direction));
            end = extent.Max(p => (p - center).Dot(line.Direction));
        }

        return new(-1, Situated.Word(shape), 0, false, start, end, 0, center) { Shape = shape };
    }

    /// <summary>Where a feature lies: the ends of its axis, the corners of a square as large as a plane, else its middle.</summary>
    public static IReadOnlyList<Vector3D> ExtentOf(FeatureResult f) =>
        f.From.Count > 0 ? [.. f.From.SelectMany(ExtentOf)] : ExtentOf(f.Nominal);

    public static IReadOnlyList<Vector3D> ExtentOf(NominalFace face)
    {
        if (face.Shape is Plane3D plane)
        {
            var half = Math.Sqrt(face.Area) / 2;
            var (x, y) = (half * plane.Normal.Perpendicular(), half * plane.Normal.Cross(plane.Normal.Perpendicular()));
            return [face.Center + x + y, face.Center + x - y, face.Center - x + y, face.Center - x - y];
        }

        return NominalFaceBuilder.AxisOf(face.Shape) is { } axis && face.End > face.Start
            ? [axis.Point + (face.Start * axis.Direction), axis.Point + (face.End * axis.Direction)]
            : [face.Center];
    }

    /// <summary>Points that stand for it where places are judged: the corners of a plane, the ends of an axis, the point itself.</summary>
    private static double[] Outline(Shape shape, Vector3D at, IReadOnlyList<FeatureResult> from)
    {
        if (shape is not (Plane3D or Line3D))
        {
            return at.ToArray();
        }

        var extent = from.SelectMany(ExtentOf).Select(p => ErrorColumns.On(shape, p)).ToArray();
        if (shape is Line3D line)
        {
            var along = extent.Select(p => (p - at).Dot(line.Direction)).ToArray();
            return [.. (at + (along.Min() * line.Direction)).ToArray(), .. (at + (along.Max() * line.Direction)).ToArray()];
        }

        var normal = ((Plane3D)shape).Normal;
        var (x, y) = (normal.Perpendicular(), normal.Cross(normal.Perpendicular()));
        var (u, v) = (extent.Select(p => (p - at).Dot(x)).ToArray(), extent.Select(p => (p - at).Dot(y)).ToArray());
        return
        [
            .. new[] { u.Min(), u.Max() }.SelectMany(a => new[] { v.Min(), v.Max() }.Select(b => at + (a * x) + (b * y)))
                .SelectMany(p => p.ToArray()),
        ];
    }
}

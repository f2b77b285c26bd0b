using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;

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
        var at = On(shape, nominal.Center);
        var variations = from.SelectMany(f => f.Variations).Select(v => (v.Source, v.Index)).Distinct()
            .Select(key => from.SelectMany(f => f.Variations).First(v => (v.Source, v.Index) == key) with
            {
                Shape = FeatureExtraction.Oriented(Made(f => f.Varied(key.Source, key.Index)), nominal.Shape!),
            }).ToList();
        var motions = variations.Select(v => Between(shape, v.Shape, at)).ToList();
        return new(new(plan.Id, plan.Name, []), nominal, shape, Outline(shape, at, from), [])
        {
            Construction = plan,
            From = from,
            Variations = variations,
            ErrorMotions = motions,
            PositionSigma = Largest(motions.Select(m => m.Shift)),
            DirectionSigma = Largest(motions.Select(m => m.Turn)),
            RadiusSigma = FeatureResult.RadiusOf(shape) is { } r
                ? Math.Sqrt(variations.Sum(v => Math.Pow(FeatureResult.RadiusOf(v.Shape)!.Value - r, 2)))
                : 0,
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
        var extent = from.SelectMany(f => f.Extent).Select(p => On(shape, p)).ToArray();
        var center = On(shape, extent.Aggregate(Vector3D.Zero, (s, p) => s + (p / extent.Length)));
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

    /// <summary>The point of a shape nearest to a place, or the one point that it has.</summary>
    private static Vector3D On(Shape shape, Vector3D p) => shape switch
    {
        Plane3D s => s.Project(p),
        Line3D s => s.Project(p),
        Circle3D s => s.Center,
        Sphere3D s => s.Center,
        _ => p,
    };

    /// <summary>Points that stand for it where places are judged: the corners of a plane, the ends of an axis, the point itself.</summary>
    private static double[] Outline(Shape shape, Vector3D at, IReadOnlyList<FeatureResult> from)
    {
        if (shape is not (Plane3D or Line3D))
        {
            return at.ToArray();
        }

        var extent = from.SelectMany(ExtentOf).Select(p => On(shape, p)).ToArray();
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

    /// <summary>The small motion that takes a shape to another near it.</summary>
    private static SmallMotion Between(Shape from, Shape to, Vector3D at)
    {
        var turn = (FeatureResult.DirectionOf(from), FeatureResult.DirectionOf(to)) is ({ } a, { } b) ? a.Cross(b) : Vector3D.Zero;
        return new(turn, On(to, at) - On(from, at), at);
    }

    /// <summary>Standard deviation in the worst direction of independent displacements.</summary>
    private static double Largest(IEnumerable<Vector3D> columns)
    {
        var spread = new double[3, 3];
        foreach (var c in columns)
        {
            for (var i = 0; i < 3; i++)
            {
                for (var j = 0; j < 3; j++)
                {
                    spread[i, j] += c[i] * c[j];
                }
            }
        }

        return Math.Sqrt(Math.Max(0, SymmetricEigen.Solve(spread).Values[^1]));
    }
}

using Bostel.Core.Features;
using Bostel.Core.Geometry;

namespace Bostel.Core.Tolerancing;

/// <summary>Sizes, distances and angles between associated features (ISO 14405-1, -2, -3).</summary>
internal static class Size
{
    /// <summary>Nominal planes farther out of parallel than this have no one distance, rad.</summary>
    internal const double MostOutOfParallel = 1e-3;

    public static Evaluated Diameter(FeatureResult f) => f.Radius is { } r
        ? new(2 * r, DiameterBudget(f, r), Words.Associated(f), [f])
        {
            Device = new(1, 2 * r, 0),
        }
        : throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no diameter.");

    /// <summary>Half the diameter.</summary>
    public static Evaluated Radius(FeatureResult f)
    {
        var whole = Diameter(f);
        return whole with
        {
            Value = whole.Value / 2,
            Budget = [.. whole.Budget!.Select(c => c with { Sigma = c.Sigma / 2 })],
            Device = new(1, whole.Value / 2, 0),
        };
    }

    /// <summary>Degrees; from the cone as it may as well be.</summary>
    public static Evaluated ConeAngle(FeatureResult f)
    {
        double Of(Shape shape) => shape is Cone3D cone
            ? 2 * Math.Abs(cone.HalfAngle) * 180 / Math.PI
            : throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no cone angle.");
        var value = Of(f.Shape);
        return new(value, Contribution.Of(f.Variations.Select(v => new Contribution(
            v.What, Math.Abs(Of(v.Shape) - value), v.Freedom))), Words.Associated(f), [f]);
    }

    /// <summary>Of a slot: across its straight sides, or over its round ends.</summary>
    public static Evaluated Slot(FeatureResult f, bool overall)
    {
        double Of(Shape shape) => shape is Slot3D slot
            ? overall ? slot.Length : slot.Width
            : throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} alone has no width; two opposite faces have.");
        var value = Of(f.Shape);
        return new(value, Contribution.Of(f.Variations.Select(v => new Contribution(
            v.What, Math.Abs(Of(v.Shape) - value), v.Freedom))), Words.Associated(f), [f])
        {
            Device = new(1, value, 0),
        };
    }

    private static IReadOnlyList<Contribution> DiameterBudget(FeatureResult f, double r) => f.IsSurface
        ? [new(Source(f), 2 * f.RadiusSigma, f.Freedom)]
        : Contribution.Of(f.Variations.Select(v => new Contribution(
            v.What, 2 * Math.Abs(FeatureResult.RadiusOf(v.Shape)!.Value - r), v.Freedom)));

    /// <summary>
    /// Plane to plane: between the middles of their points along the mean of their normals, the same in both orders. Plane to anything
    /// else: of its place from the plane. Axis to axis: between the axes in the plane through the first one's middle. Axis to point:
    /// across the axis. A step to the other side than the nominal's is negative.
    /// </summary>
    /// <exception cref="BadInputException">The nominal planes are not parallel, so that there is no one distance.</exception>
    public static Evaluated Distance(FeatureResult a, FeatureResult b) => Carried(a, b, MeasuredDistance);

    private static Evaluated MeasuredDistance(FeatureResult a, FeatureResult b)
    {
        if ((b.Shape is Plane3D && a.Shape is not Plane3D) || (a.Shape is Sphere3D && b.Axis is not null))
        {
            (a, b) = (b, a);
        }

        var (pa, pb) = (Foot(a), Foot(b));
        var method = $"{Words.Associated(a)} to {Words.Associated(b)}";
        switch (a.Shape, b.Shape)
        {
            case (Plane3D first, Plane3D second):
                return BetweenPlanes(a, b, first, second, method);
            case (Plane3D plane, _):
                var lever = (pb - pa).Length;
                var side = Side(((Plane3D)a.Nominal.Shape!).Distance(NominalPlace(b)));
                return Between(a, b, side * plane.Distance(pb), lever, 0, method);
        }

        if (a.Axis is { } axis)
        {
            var middle = axis.Project(Fitting.PointSums.Centroid(a.Points));
            var value = b.Axis is { } other
                ? ((other.Meet(new(middle, axis.Direction)) ?? other.Project(middle)) - middle).Length
                : axis.Distance(pb);
            return Between(a, b, value, 0, 0, method);
        }

        return Between(a, b, (pb - pa).Length, 0, 0, method);
    }

    private static Evaluated BetweenPlanes(FeatureResult a, FeatureResult b, Plane3D first, Plane3D second, string method)
    {
        var (nominalA, nominalB) = ((Plane3D)a.Nominal.Shape!, (Plane3D)b.Nominal.Shape!);
        if (nominalA.Normal.LineAngleTo(nominalB.Normal) > MostOutOfParallel)
        {
            throw new BadInputException(
                $"{a.Plan.Name} and {b.Plan.Name} are not parallel: there is no one distance between them; ask for the angle.");
        }

        var along = (first.Normal + (Side(first.Normal.Dot(second.Normal)) * second.Normal)).Normalized();
        var (pa, pb) = (Foot(a), Foot(b));
        var side = Side((NominalPlace(b) - NominalPlace(a)).Dot(nominalA.Normal));
        var across = (pb - pa - ((pb - pa).Dot(along) * along)).Length;
        return Between(a, b, side * (pb - pa).Dot(along), across / 2, across / 2, method + ", between their middles along the mean normal");
    }

    /// <param name="leverA">How far the direction of the first feature shifts the value, mm/rad.</param>
    private static Evaluated Between(FeatureResult a, FeatureResult b, double value, double leverA, double leverB, string method) =>
        new(value, Contribution.Of(Part(a, leverA), Part(b, leverB)), method, [a, b]) { Device = new(1, Math.Abs(value), 0) };

    private static Contribution Part(FeatureResult f, double lever) =>
        new(Source(f), Math.Sqrt((f.PositionSigma * f.PositionSigma) + Math.Pow(lever * f.DirectionSigma, 2)), f.Freedom);

    private static string Source(FeatureResult f) => Variation.Scatter(f.Plan.Name);

    /// <summary>
    /// Where one of the features is constructed, both may rest on the same points, and edges share what the scan loses at them: the
    /// uncertainty is then found by taking the value anew for each error of what they rest on, in both at once (JCGM 100:2008, 5.2.2).
    /// </summary>
    private static Evaluated Carried(FeatureResult a, FeatureResult b, Func<FeatureResult, FeatureResult, Evaluated> of)
    {
        var plain = of(a, b);
        if (a.IsSurface && b.IsSurface)
        {
            return plain;
        }

        return plain with
        {
            Budget = Contribution.Of(a.Variations.Concat(b.Variations).DistinctBy(v => (v.Source, v.Index)).Select(v => new Contribution(
                v.What,
                Math.Abs(of(
                    a with { Shape = a.Varied(v.Source, v.Index) }, b with { Shape = b.Varied(v.Source, v.Index) }).Value - plain.Value),
                v.Freedom))),
        };
    }

    /// <summary>
    /// Angle in degrees, never folded: directions are turned as the nominal's. Of the angle and its supplement, which a drawing may mean
    /// alike, the one that on the nominal is nearer to the asked; for planes at right angles that inside the material. Between an axis and
    /// a plane it is taken to the plane itself.
    /// </summary>
    /// <param name="asked">The drawing's angle, degrees.</param>
    public static Evaluated Angle(FeatureResult a, FeatureResult b, double asked) => Carried(a, b, (x, y) => MeasuredAngle(x, y, asked));

    private static Evaluated MeasuredAngle(FeatureResult a, FeatureResult b, double asked)
    {
        var mixed = a.Shape is Plane3D != b.Shape is Plane3D;
        double Between(Vector3D u, Vector3D v) => (mixed ? (Math.PI / 2) - u.AngleTo(v) : u.AngleTo(v)) * 180 / Math.PI;
        var (onNominal, measured) = (Between(NominalDirection(a), NominalDirection(b)), Between(Needed(a), Needed(b)));
        double[] branches = mixed ? [1, -1] : [-1, 1];

        // For planes the supplement of the angle between the outward normals is the angle of the material; it wins a tie.
        double Branch(double sign, double angle) => mixed ? sign * angle : sign > 0 ? angle : 180 - angle;
        var sign = branches.MinBy(s => Math.Round(Math.Abs(Branch(s, onNominal) - asked), 6));
        Contribution Part(FeatureResult f) => new(Source(f), f.DirectionSigma * 180 / Math.PI, f.Freedom);
        return new(Branch(sign, measured), Contribution.Of(Part(a), Part(b)),
            $"{Words.Associated(a)} to {Words.Associated(b)}", [a, b]);
    }

    private static double Side(double value) => value < 0 ? -1 : 1;

    private static Vector3D NominalPlace(FeatureResult f) =>
        f.Nominal.Shape is Sphere3D s ? s.Center : f.NominalAxis?.Point ?? f.Nominal.Center;

    private static Vector3D NominalDirection(FeatureResult f) =>
        f.NominalDirection ?? throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no direction.");

    private static Vector3D Needed(FeatureResult f) =>
        f.Direction ?? throw new BadInputException($"{f.Plan.Name}: a {f.Nominal.Kind} has no direction.");

    private static Vector3D Foot(FeatureResult f)
    {
        var c = Fitting.PointSums.Centroid(f.Points);
        return f.Shape switch
        {
            Plane3D s => s.Project(c),
            Sphere3D s => s.Center,
            Circle3D or Slot3D => f.Axis!.Point,
            _ => f.Axis!.Project(c),
        };
    }
}

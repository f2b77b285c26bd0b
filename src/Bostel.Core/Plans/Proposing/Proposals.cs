using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;
using static System.FormattableString;

namespace Bostel.Core.Plans;

/// <summary>A characteristic that picked faces may have.</summary>
/// <param name="Characteristic">With the nominal's own value and the plan's general tolerances; else ISO 2768-mK to begin from.</param>
/// <param name="NewFeatures">Features it needs that the plan does not have yet.</param>
public sealed record Proposal(CharacteristicPlan Characteristic, IReadOnlyList<FeaturePlan> NewFeatures);

/// <summary>What can be asked of faces that a person picked on the nominal. Faces of one surface make one feature.</summary>
public static class Proposals
{
    private const double Parallel = 1e-4;

    /// <summary>A round face that goes less far round is dimensioned by its radius, rad.</summary>
    private const double WholeTurn = 6;

    /// <summary>Axes nearer than this are one, mm.</summary>
    private const double OnAxis = 1e-3;

    /// <summary>Everything that fits the faces, the likeliest first; empty when nothing is picked.</summary>
    /// <param name="faces">Ids of the picked faces, in the order they were picked.</param>
    /// <param name="features">Ids of picked features of the plan, constructed ones too; they come before the faces.</param>
    /// <exception cref="BadInputException">The nominal has no such face, or the plan no such feature.</exception>
    public static IReadOnlyList<Proposal> For(
        NominalModel nominal, InspectionPlan plan, IReadOnlyList<int> faces, IReadOnlyList<string>? features = null)
    {
        if (faces.Count == 0 && features is not { Count: > 0 })
        {
            return [];
        }

        List<(FeatureResult Result, bool IsNew)> picked =
            [.. (features ?? []).Select(f => (PerfectFeature.Of(nominal, plan, f), false)), .. Picked(nominal, plan, faces)];
        var next = new Next(nominal, plan);
        var proposals = picked.All(p => p.Result.Shape is not null && p.Result.Nominal.Shape is not null) ? picked switch
        {
            [var one] => next.OfOne(one.Result),
            [var first, var second] => [.. next.OfTwo(first.Result, second.Result), .. next.OfPattern([first.Result, second.Result])],
            _ => next.OfPattern([.. picked.Select(p => p.Result)]),
        }
        : [];
        FeaturePlan[] made = [.. picked.Where(p => p.IsNew).Select(p => p.Result.Plan)];
        var known = plan with { Features = [.. plan.Features, .. made] };
        var asked = proposals.Select(c => new Proposal(GeneralLimits.Given(c, known, nominal) ?? c, made));
        if (faces.Count == 0)
        {
            return [.. asked];
        }

        var profile = new SurfaceProfilePlan(next.No, "Profile")
        {
            Faces = [.. faces],
            Datums = next.DatumsBut([.. picked.Select(p => p.Result.Plan.Id)]),
            Tolerance = Math.Round(plan.Compare.Upper - plan.Compare.Lower, 6),
        };
        return [.. asked, new(GeneralLimits.Given(profile, known, nominal) ?? profile, [])];
    }

    /// <summary>A feature of exactly the picked faces, named by what the first of them is, under an id and a name of its own.</summary>
    /// <exception cref="BadInputException">No face is picked, or one the nominal does not have.</exception>
    public static FeaturePlan FeatureOf(NominalModel nominal, InspectionPlan plan, IReadOnlyList<int> faces)
    {
        if (faces.Count == 0)
        {
            throw new BadInputException("faces: at least one face is needed.");
        }

        var first = faces.Select(nominal.Face).ToList()[0];
        var surface = NominalFeatures.Find(nominal).First(s => s.Faces.Contains(first.Id));
        return Named(surface, first, plan.Features) with { Faces = [.. faces] };
    }

    private static List<(FeatureResult Result, bool IsNew)> Picked(NominalModel nominal, InspectionPlan plan, IReadOnlyList<int> faces)
    {
        var surfaces = NominalFeatures.Find(nominal);
        var groups = faces.Select(nominal.Face).GroupBy(f => surfaces.First(s => s.Faces.Contains(f.Id)));
        var picked = new List<(FeatureResult, bool)>();
        var features = plan.Features.ToList();
        foreach (var group in groups)
        {
            var exactly = group.Select(f => f.Id).ToHashSet();
            var known = features.FirstOrDefault(f => exactly.SetEquals(f.Faces))
                ?? features.FirstOrDefault(f => f.Faces.ToHashSet().SetEquals(group.Key.Faces));
            var feature = known ?? Named(group.Key, nominal.Face(group.Key.Faces[0]), features);
            features.Add(feature);
            picked.Add((PerfectFeature.Of(nominal, feature), known is null));
        }

        return picked;
    }

    /// <summary>A feature of a surface, under an id and a name that none of the others has.</summary>
    /// <param name="number">Its place among others alike; 0: it stands alone.</param>
    internal static FeaturePlan Named(NominalFeature surface, NominalFace face, IReadOnlyList<FeaturePlan> others, int number = 0)
    {
        var size = face.Shape switch
        {
            Cylinder3D c => Invariant($" ø{2 * c.Radius:0.###}"),
            Sphere3D s => Invariant($" ø{2 * s.Radius:0.###}"),
            _ => "",
        };
        var name = char.ToUpperInvariant(surface.Kind[0]) + surface.Kind[1..] + size + (number > 0 ? $" no. {number}" : "");
        return Unique(new($"{surface.Kind}-{face.Id}", name, surface.Faces), others);
    }

    /// <summary>The feature, its id and name changed where another has them.</summary>
    internal static FeaturePlan Unique(FeaturePlan wanted, IReadOnlyList<FeaturePlan> others)
    {
        var (id, name) = (wanted.Id, wanted.Name);
        for (var i = 2; others.Any(f => f.Name == name); i++)
        {
            name = $"{wanted.Name} ({i})";
        }

        for (var i = 2; others.Any(f => f.Id == id); i++)
        {
            id = $"{wanted.Id}-{i}";
        }

        return wanted with { Id = id, Name = name };
    }

    /// <summary>A dimension with its nominal, and the general tolerance of that.</summary>
    internal static DimensionalPlan Sized(DimensionalPlan plan, double nominal)
    {
        var value = Math.Round(nominal, 4);
        var allowed = UsualTolerances.OfLength(value);
        return plan with { Nominal = value, Lower = -allowed, Upper = allowed };
    }

    /// <summary>Makes the characteristics with the next number.</summary>
    private sealed class Next(NominalModel nominal, InspectionPlan plan)
    {
        public int No { get; } = 1 + plan.Characteristics.Select(c => c.No).DefaultIfEmpty().Max();

        public IReadOnlyList<CharacteristicPlan> OfOne(FeatureResult f)
        {
            string[] of = [f.Plan.Id];
            var length = Diagonal(f);
            var place = new PositionPlan(No, $"{f.Plan.Name} position")
            { Features = of, Datums = DatumsBut(of), Tolerance = Place(length) };
            IEnumerable<CharacteristicPlan> position = place.Datums.Length > 0 ? [place] : [];
            return f.Shape switch
            {
                Plane3D when f.Construction is not null => position.ToArray(),
                Plane3D => [
                    new FlatnessPlan(No, $"{f.Plan.Name} flatness") { Features = of, Tolerance = UsualTolerances.OfForm(length) },
                    .. Orientation(f, length), .. position, .. AboutAxes(f, length)],
                Cylinder3D when f.Nominal.Sweep < WholeTurn => [
                    Sized(new RadiusPlan(No, $"{f.Plan.Name} radius") { Features = of }, f.Radius!.Value),
                    Sized(new DiameterPlan(No, $"{f.Plan.Name} diameter") { Features = of }, Size.Diameter(f).Value), .. position,
                    .. Orientation(f, length),
                    new CylindricityPlan(No, $"{f.Plan.Name} cylindricity") { Features = of, Tolerance = UsualTolerances.OfForm(length) }],
                Cylinder3D => [
                    Sized(new DiameterPlan(No, $"{f.Plan.Name} diameter") { Features = of }, Size.Diameter(f).Value), .. position,
                    .. Orientation(f, length), .. AboutAxes(f, length),
                    new RoundnessPlan(No, $"{f.Plan.Name} roundness") { Features = of, Tolerance = UsualTolerances.OfForm(length) },
                    new CylindricityPlan(No, $"{f.Plan.Name} cylindricity") { Features = of, Tolerance = UsualTolerances.OfForm(length) },
                    new StraightnessPlan(No, $"{f.Plan.Name} straightness") { Features = of, Tolerance = UsualTolerances.OfForm(length) }],
                Cone3D cone => [
                    new ConeAnglePlan(No, $"{f.Plan.Name} angle") {
                        Features = of,
                        Nominal = Math.Round(2 * Math.Abs(cone.HalfAngle) * 180 / Math.PI, 4),
                        Lower = -UsualTolerances.OfAngle(length),
                        Upper = UsualTolerances.OfAngle(length),
                    },
                    .. AboutAxes(f, length),
                    new RoundnessPlan(No, $"{f.Plan.Name} roundness") { Features = of, Tolerance = UsualTolerances.OfForm(length) }],
                Circle3D => [Sized(new DiameterPlan(No, $"{f.Plan.Name} diameter") { Features = of }, Size.Diameter(f).Value), .. position],
                Slot3D => [
                    Sized(new WidthPlan(No, $"{f.Plan.Name} width") { Features = of }, Size.Slot(f, false).Value),
                    Sized(new WidthPlan(No, $"{f.Plan.Name} length") { Features = of, Overall = true }, Size.Slot(f, true).Value),
                    .. position],
                Line3D => [.. position, .. Orientation(f, length)],
                Sphere3D { Radius: 0 } => [.. position],
                Sphere3D => [Sized(new DiameterPlan(No, $"{f.Plan.Name} diameter") { Features = of }, Size.Diameter(f).Value), .. position],
                _ => [],
            };
        }

        /// <summary>The position of several holes at once; none when one of them has no axis or centre.</summary>
        public IReadOnlyList<CharacteristicPlan> OfPattern(IReadOnlyList<FeatureResult> features)
        {
            string[] of = [.. features.Select(f => f.Plan.Id)];
            var datums = DatumsBut(of);
            return datums.Length == 0 || features.Any(f => f.Shape is not (Cylinder3D or Circle3D or Sphere3D or Slot3D)) ? [] : [
                new PositionPlan(No, $"{features[0].Plan.Name} and {features.Count - 1} more, position")
                {
                    Features = of,
                    Datums = datums,
                    Tolerance = features.Max(f => Place(Diagonal(f))),
                }];
        }

        /// <summary>What runs about the axis of a datum: of round faces on it, of faces square to it.</summary>
        private IEnumerable<CharacteristicPlan> AboutAxes(FeatureResult f, double length)
        {
            string[] of = [f.Plan.Id];
            foreach (var datum in plan.Datums.Where(d => d.Features.Length == 1 && d.Features[0] != f.Plan.Id))
            {
                var to = PerfectFeature.Of(nominal, plan, datum.Features[0]);
                if (to.Shape is not (Cylinder3D or Cone3D) || to.NominalAxis is not { } axis || Turned(f, to) is not < Parallel)
                {
                    continue;
                }

                string[] about = [datum.Label];
                var tolerance = UsualTolerances.OfRunOut;
                if (f.NominalAxis is { } own && axis.Distance(own.Point) < OnAxis)
                {
                    yield return new CoaxialityPlan(No, $"{f.Plan.Name} coaxiality")
                    { Features = of, Datums = about, Tolerance = UsualTolerances.OfOrientation(length) };
                }
                else if (f.Shape is not Plane3D)
                {
                    continue;
                }

                yield return new CircularRunOutPlan(No, $"{f.Plan.Name} run-out") { Features = of, Datums = about, Tolerance = tolerance };
                if (f.Shape is not Cone3D)
                {
                    yield return new TotalRunOutPlan(No, $"{f.Plan.Name} total run-out")
                    { Features = of, Datums = about, Tolerance = tolerance };
                }
            }
        }

        public IReadOnlyList<CharacteristicPlan> OfTwo(FeatureResult a, FeatureResult b)
        {
            string[] of = [a.Plan.Id, b.Plan.Id];
            var name = $"{a.Plan.Name} to {b.Plan.Name}";
            var turned = Turned(a, b);
            var made = new List<CharacteristicPlan>();
            if (a.Shape is Plane3D first && b.Shape is Plane3D second && turned < Parallel)
            {
                var distance = Size.Distance(a, b).Value;
                if (first.Normal.Dot(second.Normal) < 0 && a.IsSurface && b.IsSurface)
                {
                    made.Add(Sized(new WidthPlan(No, $"{name} width") { Features = of }, distance));
                }

                made.Add(Sized(new DistancePlan(No, $"{name} distance") { Features = of }, distance));
            }
            else if (turned is null || IsAlong(a, b, turned.Value))
            {
                made.Add(Sized(new DistancePlan(No, $"{name} distance") { Features = of }, Size.Distance(a, b).Value));
            }

            if (turned > Parallel)
            {
                var angle = Math.Round(Size.Angle(a, b, 45).Value, 4);
                var side = Math.Min(Diagonal(a), Diagonal(b));
                var allowed = UsualTolerances.OfAngle(side);
                made.Add(new AnglePlan(No, $"{name} angle") { Features = of, Nominal = angle, Lower = -allowed, Upper = allowed });
            }

            return made;
        }

        /// <summary>All datums that are not made of the features themselves.</summary>
        public string[] DatumsBut(string[] features) =>
            [.. plan.Datums.Where(d => !d.Features.Intersect(features).Any()).Select(d => d.Label)];

        private IEnumerable<CharacteristicPlan> Orientation(FeatureResult f, double length)
        {
            string[] of = [f.Plan.Id];
            foreach (var datum in plan.Datums.Where(d => d.Features.Length == 1 && d.Features[0] != f.Plan.Id))
            {
                var to = PerfectFeature.Of(nominal, plan, datum.Features[0]);
                if (Turned(f, to) is { } turned)
                {
                    // A plane's direction is its normal, an axis' its own: between the two the words swap.
                    var isPlaneAndAxis = f.Shape is Plane3D != to.Shape is Plane3D;
                    var angle = isPlaneAndAxis ? (Math.PI / 2) - turned : turned;
                    var tolerance = UsualTolerances.OfOrientation(length);
                    if (angle < Parallel)
                    {
                        yield return new ParallelismPlan(No, $"{f.Plan.Name} parallelism")
                        { Features = of, Datums = [datum.Label], Tolerance = tolerance };
                    }
                    else if (angle > (Math.PI / 2) - Parallel)
                    {
                        yield return new PerpendicularityPlan(No, $"{f.Plan.Name} perpendicularity")
                        { Features = of, Datums = [datum.Label], Tolerance = tolerance };
                    }
                    else
                    {
                        yield return new AngularityPlan(No, $"{f.Plan.Name} angularity")
                        { Features = of, Datums = [datum.Label], Tolerance = tolerance };
                    }
                }
            }
        }

        /// <summary>Angle between the directions of two features, 0 to π/2; null where one has none.</summary>
        private static double? Turned(FeatureResult a, FeatureResult b) =>
            a.NominalDirection is { } u && b.NominalDirection is { } v ? u.LineAngleTo(v) : null;

        /// <summary>Whether there is one distance: axes that are parallel, or an axis that runs along a plane.</summary>
        private static bool IsAlong(FeatureResult a, FeatureResult b, double turned) =>
            a.Shape is Plane3D == b.Shape is Plane3D ? turned < Parallel : turned > (Math.PI / 2) - Parallel;

        private static double Diagonal(FeatureResult f) =>
            Box3D.Of(Enumerable.Range(0, f.Points.Length / 3).Select(i => Vector3D.At(f.Points, i))).Diagonal;

        private static double Place(double length) => 2 * UsualTolerances.OfLength(length);
    }
}

using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using static System.FormattableString;

namespace Bostel.Core.Plans;

/// <summary>A construction that picked features can make.</summary>
/// <param name="Construction">Under an id and a name of its own; it takes them in an order that suits it.</param>
/// <param name="Nominal">What it is on the nominal, in words.</param>
public sealed record ConstructionOffer(ConstructionPlan Construction, string Nominal);

/// <summary>What can be constructed from features that a person picked: only what they determine on the nominal.</summary>
public static class ConstructionOffers
{
    private static readonly IReadOnlyList<ConstructionPlan> All = Kinds.EachOf<ConstructionPlan>();

    /// <param name="features">Ids of features of the plan, in the order they were picked.</param>
    /// <exception cref="BadInputException">The plan has no such feature.</exception>
    public static IReadOnlyList<ConstructionOffer> For(NominalModel nominal, InspectionPlan plan, IReadOnlyList<string> features)
    {
        if (features.Count == 0)
        {
            return [];
        }

        var nominals = new PlanNominals(plan, nominal);
        var faces = features.ToDictionary(f => f, f => nominals[f]);
        if (faces.Values.Any(f => f.Shape is null))
        {
            return [];
        }

        string[][] orders = features.Count == 2 ? [[.. features], [.. features.Reverse()]] : [[.. features]];
        var offers = new List<ConstructionOffer>();
        foreach (var kind in All)
        {
            foreach (var order in orders)
            {
                var from = order.Select(f => new Situated(plan.NameOf(f), faces[f].Shape!, faces[f].Center)).ToArray();
                var asked = Sized(Unique(kind with { From = order }, plan), faces[order[0]], from, nominal);
                if (asked.Make(from).Shape is not null)
                {
                    offers.Add(new(asked, Describe(nominals.Of(asked))));
                    break;
                }
            }
        }

        return offers;
    }

    private static ConstructionPlan Unique(ConstructionPlan kind, InspectionPlan plan)
    {
        var word = char.ToUpperInvariant(kind.Kind[0]) + kind.Kind[1..].Replace('-', ' ');
        var (ids, names) = (plan.FeatureIds.ToHashSet(), plan.FeatureIds.Select(plan.NameOf).ToHashSet());
        var n = Enumerable.Range(1, ids.Count + 1).First(i => !ids.Contains($"{kind.Kind}-{i}") && !names.Contains($"{word} {i}"));
        return kind with { Id = $"{kind.Kind}-{n}", Name = $"{word} {n}" };
    }

    /// <summary>
    /// With the numbers that the nominal suggests: a gauge begins in the middle of its cone, a pattern has the step of its places.
    /// </summary>
    private static ConstructionPlan Sized(
        ConstructionPlan kind, NominalFace face, IReadOnlyList<Situated> from, NominalModel nominal) => kind switch
        {
            GaugeCirclePlan gauge when face.Shape is Cone3D cone && face.End > face.Start =>
                gauge with { Diameter = Math.Round((face.Start + face.End) * Math.Tan(cone.HalfAngle), 3) },
            SurfacePointPlan point => point with { At = [.. OnSurface(face, nominal).ToArray().Select(x => Math.Round(x, 3))] },
            PatternPlan pattern => pattern.SteppedAs(from),
            _ => kind,
        };

    /// <summary>A point of a face as near to its middle as it has one: the middle of a ring lies beside it.</summary>
    private static Vector3D OnSurface(NominalFace face, NominalModel nominal)
    {
        var near = Enumerable.Range(0, nominal.FaceOfTriangle.Length).Where(t => nominal.FaceOfTriangle[t] == face.Id)
            .Select(nominal.Mesh.Triangle).Select(t => (t.A + t.B + t.C) / 3)
            .Cast<Vector3D?>().MinBy(p => Vector3D.Distance(p!.Value, face.Center));
        var beside = near ?? face.Center + (NominalFaceBuilder.DirectionOf(face.Shape)?.Perpendicular() ?? Vector3D.UnitX);
        return face.Shape is null ? beside : beside - (face.Shape.Distance(beside) * face.Shape.Gradient(beside));
    }

    private static string Describe(NominalFace face) => face.Shape switch
    {
        Sphere3D s => $"at {At(s.Center)}",
        Line3D s => $"through {At(s.Point)} along {At(s.Direction)}",
        Plane3D s => $"through {At(s.Point)} square to {At(s.Normal)}",
        Circle3D s => Invariant($"⌀{2 * s.Radius:0.###} about {At(s.Center)}"),
        _ => face.Kind,
    };

    private static string At(Vector3D p) => Invariant($"({Told(p.X):0.###}, {Told(p.Y):0.###}, {Told(p.Z):0.###})");

    /// <summary>Without the sign of a nought.</summary>
    private static double Told(double value) => Math.Round(value, 3) + 0.0;
}

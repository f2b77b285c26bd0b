using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;

namespace Bostel.Core.Plans;

/// <summary>The nominals of a plan's features: faces of the model, and what is constructed from them.</summary>
public sealed class PlanNominals(InspectionPlan plan, NominalModel nominal)
{
    private readonly Dictionary<string, (NominalFace Face, IReadOnlyList<Vector3D> Extent)> _known = [];

    /// <exception cref="BadInputException">The plan has no such feature, or its faces do not make one.</exception>
    /// <exception cref="UndeterminedException">It is constructed, and not determined.</exception>
    public NominalFace this[string id] => Of(id).Face;

    /// <summary>Places that tell where a feature lies and how far it reaches.</summary>
    /// <exception cref="BadInputException">The plan has no such feature, or it is not determined.</exception>
    public IReadOnlyList<Vector3D> ExtentOf(string id) => Of(id).Extent;

    /// <summary>What a construction of features of the plan would be.</summary>
    /// <exception cref="BadInputException">It does not take such features.</exception>
    /// <exception cref="UndeterminedException">They do not determine it.</exception>
    public NominalFace Of(ConstructionPlan construction) =>
        Constructed.NominalOf(construction, [.. construction.From.Select(f => (plan.NameOf(f), Of(f).Face, Of(f).Extent))]);

    private (NominalFace Face, IReadOnlyList<Vector3D> Extent) Of(string id)
    {
        if (_known.TryGetValue(id, out var found))
        {
            return found;
        }

        if (plan.Features.FirstOrDefault(f => f.Id == id) is { } feature)
        {
            var face = FeatureExtraction.Whole(feature, nominal);
            return _known[id] = (face, Constructed.ExtentOf(face));
        }

        var made = plan.Constructions.FirstOrDefault(c => c.Id == id) ?? throw new BadInputException($"The plan has no feature '{id}'.");
        return _known[id] = (Of(made), [.. made.From.SelectMany(f => Of(f).Extent)]);
    }
}

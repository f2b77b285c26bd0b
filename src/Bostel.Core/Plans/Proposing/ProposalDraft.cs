using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>A surface of the nominal that a feature can be made of.</summary>
internal sealed record ProposedSurface(NominalFeature Surface, NominalFace Face, double Area)
{
    public Vector3D Axis => ((Cylinder3D)Face.Shape!).Axis;

    public Vector3D Normal => ((Plane3D)Face.Shape!).Normal;

    public double Radius => ((Cylinder3D)Face.Shape!).Radius;

    public bool IsWhole => Face.Shape is Cylinder3D && Face.Sweep > WholeTurn;

    /// <summary>A round face that goes less far round is no hole, rad.</summary>
    private const double WholeTurn = 6;
}

/// <summary>A plan while proposals are added to it: what it has is not proposed again, and names stay unique.</summary>
internal sealed class ProposalDraft
{
    private readonly InspectionPlan _plan;
    private readonly List<FeaturePlan> _features = [];
    private readonly List<DatumPlan> _datums = [];
    private readonly List<CharacteristicPlan> _rows = [];
    private readonly Lazy<IReadOnlyList<ProposedSurface>> _surfaces;
    private readonly Lazy<Box3D[]> _boxes;
    private int _reserved;

    public ProposalDraft(NominalModel nominal, InspectionPlan plan)
    {
        (Nominal, _plan) = (nominal, plan);
        _surfaces = new(() => [.. NominalFeatures.Find(nominal)
            .Select(s => new ProposedSurface(s, nominal.Face(s.Faces[0]), s.Faces.Sum(f => nominal.Face(f).Area)))
            .OrderByDescending(f => f.Area)]);
        _boxes = new(() => Boxes(nominal));
    }

    public NominalModel Nominal { get; }

    public ComparePlan Compare => _plan.Compare;

    public GeneralTolerances? General => _plan.General;

    /// <summary>In which requirements are written.</summary>
    public ShownUnit Shown => _plan.Shown;

    /// <summary>All surfaces of the nominal, the largest first.</summary>
    public IReadOnlyList<ProposedSurface> Surfaces => _surfaces.Value;

    public IReadOnlyList<FeaturePlan> Features => _features;

    public IReadOnlyList<DatumPlan> Datums => _datums;

    public IReadOnlyList<CharacteristicPlan> Rows => _rows;

    public List<string> Doubts { get; } = [];

    public List<int> Doubtful { get; } = [];

    public IEnumerable<DatumPlan> AllDatums => _plan.Datums.Concat(_datums);

    /// <summary>A letter among these that is no datum; null: all are.</summary>
    public string? MissingDatum(IEnumerable<DatumReference> datums) => datums.SelectMany(d => DatumLetters.Of(d.Label))
        .FirstOrDefault(letter => AllDatums.All(known => known.Label != letter));

    public IEnumerable<FeaturePlan> AllFeatures => _plan.Features.Concat(_features);

    public IEnumerable<CharacteristicPlan> AllRows => _plan.Characteristics.Concat(_rows);

    public void Define(DatumPlan datum) => _datums.Add(datum);

    /// <summary>Numbers up to this one are given to rows that ask for them, and to no others.</summary>
    public void Reserve(int no) => _reserved = Math.Max(_reserved, no);

    /// <summary>Adds a row under the next free number; what is asked already is not proposed.</summary>
    public void Add(Func<int, CharacteristicPlan> row) => Put(number => row(number) with { General = true }, null);

    /// <summary>
    /// Adds what a drawing asks, under its number there if that is free; where it is asked already with other limits, that is said.
    /// </summary>
    public void Ask(Func<int, CharacteristicPlan> row, int? no)
    {
        if (Put(row, no) is var (asked, made)
            && (asked.Limits != made.Limits || (asked as AxisPlan)?.Material != (made as AxisPlan)?.Material))
        {
            Doubts.Add($"{made.Name} is left out: characteristic {asked.No} asks the same with other limits.");
        }
    }

    /// <returns>The row that asks the same already, and the one that is left out for it; null: it was added.</returns>
    private (CharacteristicPlan Asked, CharacteristicPlan Made)? Put(Func<int, CharacteristicPlan> row, int? no)
    {
        var number = no is { } wanted && AllRows.All(c => c.No != wanted) ? wanted
            : 1 + Math.Max(_reserved, AllRows.Select(c => c.No).DefaultIfEmpty().Max());
        var made = WithLimits(row(number));
        if (AllRows.FirstOrDefault(c => c.Kind == made.Kind && c.Refers.Features.SequenceEqual(made.Refers.Features)
            && c.Refers.Datums.SequenceEqual(made.Refers.Datums) && c.Refers.Faces.ToHashSet().SetEquals(made.Refers.Faces)) is { } asked)
        {
            return (asked, made);
        }

        _rows.Add(made);
        return null;
    }

    /// <summary>
    /// What has no limits of its own takes those of the plan's general tolerances; what they say nothing of keeps what it has.
    /// </summary>
    private CharacteristicPlan WithLimits(CharacteristicPlan row) => !row.General ? row
        : GeneralLimits.Given(row, _plan with { Features = [.. AllFeatures], Datums = [.. AllDatums] }, Nominal)
            ?? row with { General = false };

    /// <summary>Faces of the nominal that no geometrical tolerance of the plan refers to.</summary>
    public IReadOnlyList<int> FacesWithoutTolerance()
    {
        var toleranced = _plan.Characteristics.OfType<GeometricalPlan>()
            .SelectMany(c => c.Refers.Faces.Concat(_plan.MeasuredFor(c.Refers.Features).SelectMany(f => f.Faces))).ToHashSet();
        return [.. Nominal.Faces.Select(f => f.Id).Where(f => !toleranced.Contains(f))];
    }

    /// <summary>The plan's own feature of a surface, or a new one.</summary>
    /// <param name="number">Its place among others alike; 0: it stands alone.</param>
    public FeaturePlan FeatureOf(ProposedSurface f, int number = 0) =>
        Known(f) ?? Made(Proposals.Named(f.Surface, f.Face, [.. AllFeatures], number));

    /// <summary>The same under a name of the drawing's; one that the plan has already keeps its own.</summary>
    public FeaturePlan FeatureOf(ProposedSurface f, string name) => Known(f) ?? Made(
        Proposals.Unique(Proposals.Named(f.Surface, f.Face, []) with { Name = name }, [.. AllFeatures]));

    public string IdOf(ProposedSurface f) => FeatureOf(f).Id;

    public string NameOf(ProposedSurface f) => FeatureOf(f).Name;

    public ProposedSurface? SurfaceOf(FeaturePlan feature) => feature is { EdgeOf: null, Region: null }
        ? Surfaces.FirstOrDefault(s => s.Surface.Faces.Intersect(feature.Faces).Any())
        : null;

    /// <summary>The surfaces that faces lie on, each once, in the order of the faces.</summary>
    public IReadOnlyList<ProposedSurface> SurfacesOf(IReadOnlyList<int> faces) =>
        [.. faces.Select(f => Surfaces.First(s => s.Surface.Faces.Contains(f))).Distinct()];

    /// <summary>Diagonal of the box around a surface, mm.</summary>
    public double Extent(ProposedSurface f) =>
        Box3D.Of(f.Surface.Faces.SelectMany(face => (Vector3D[])[_boxes.Value[face].Min, _boxes.Value[face].Max])).Diagonal;

    private FeaturePlan? Known(ProposedSurface f)
    {
        var faces = f.Surface.Faces.ToHashSet();
        return AllFeatures.FirstOrDefault(k => k.EdgeOf is null && k.Region is null && faces.SetEquals(k.Faces));
    }

    private FeaturePlan Made(FeaturePlan feature)
    {
        _features.Add(feature);
        return feature;
    }

    private static Box3D[] Boxes(NominalModel nominal)
    {
        var boxes = new Box3D[nominal.Faces.Count];
        Array.Fill(boxes, Box3D.Empty);
        for (var t = 0; t < nominal.Mesh.TriangleCount; t++)
        {
            ref var box = ref boxes[nominal.FaceOfTriangle[t]];
            var (a, b, c) = nominal.Mesh.Triangle(t);
            box = box.Include(a).Include(b).Include(c);
        }

        return boxes;
    }
}

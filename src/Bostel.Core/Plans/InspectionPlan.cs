using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Bostel.Core.Features;
using Bostel.Core.Nominals;
using Bostel.Core.Preparation;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>How the scan is prepared: steps in order, each a rule that holds for the next piece too.</summary>
public sealed record PreparePlan
{
    public IReadOnlyList<PrepareStep> Steps { get; init; } = [new KeepPartStep()];
}

/// <summary>The band of the colour map and the limits of the search for counterparts.</summary>
/// <param name="Lower">Lower end of the band, mm.</param>
/// <param name="Upper">Upper end of the band, mm.</param>
/// <param name="MaxDistance">Farthest counterpart, mm; null: from the size of the part.</param>
/// <param name="MaxAngleDegrees">Largest angle between the normals of a point and of its counterpart.</param>
public sealed record ComparePlan(double Lower = -0.2, double Upper = 0.2, double? MaxDistance = null, double MaxAngleDegrees = 60)
{
    public const int MostLabels = 200;

    /// <summary>Name of the alignment in which the map stands; null: the plan's own.</summary>
    public string? Alignment { get; init; }

    /// <summary>Places of the nominal whose deviation is read on every piece.</summary>
    public IReadOnlyList<LabelPlan> Labels { get; init; } = [];

    /// <summary>What labels say, on the screen and in the report; never nothing.</summary>
    public IReadOnlyList<LabelContent> LabelsSay { get; init; } = [LabelContent.Value];

    /// <summary>Planes in which every piece is cut, in the same alignment.</summary>
    public IReadOnlyList<SectionPlan> Sections { get; init; } = [];

    /// <summary>Maps beside that of the deviation, in the same alignment.</summary>
    public IReadOnlyList<MapPlan> Maps { get; init; } = [];

    /// <summary>Whether the deviation of every piece is taken apart, for the report.</summary>
    public bool Explain { get; init; }

    /// <summary>The colours of all maps, on the screen and in the report.</summary>
    public RampPlan Ramp { get; init; } = new();
}

/// <summary>A datum letter and the features that make it.</summary>
public sealed record DatumPlan(string Label, string[] Features);

/// <summary>
/// Everything that is done to a piece of a part, as data. The schema is published in docs/plan.schema.json; unknown fields are refused.
/// Lengths and places are in mm, areas in mm², angles in degrees, places in nominal coordinates; a direction need not be of length 1.
/// </summary>
public sealed record InspectionPlan
{
    public const int MostFigures = 60;
    public const int MostName = 200;
    public const int MostTargets = 50;
    public const string Version = "bostel-plan/9";

    public string Schema { get; init; } = Version;
    public string Part { get; init; } = "";
    public string Revision { get; init; } = "";
    public PreparePlan Prepare { get; init; } = new();
    public AlignPlan Align { get; init; } = new AllSurfacesPlan();

    /// <summary>Further ways of aligning, under names, beside the plan's own.</summary>
    public IReadOnlyList<NamedAlignment> Alignments { get; init; } = [];

    public ComparePlan Compare { get; init; } = new();
    public IReadOnlyList<FeaturePlan> Features { get; init; } = [];

    /// <summary>Features that follow from others; each from features, or from constructions before it.</summary>
    public IReadOnlyList<ConstructionPlan> Constructions { get; init; } = [];

    public IReadOnlyList<DatumPlan> Datums { get; init; } = [];
    public IReadOnlyList<CharacteristicPlan> Characteristics { get; init; } = [];

    /// <summary>The standards that answer what a row leaves open.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public DrawingStandard Standard { get; init; }

    /// <summary>The unit in which lengths are shown, on the screen and in the report.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public ShownUnit Shown { get; init; }

    public DecisionRule Decision { get; init; } = new StandardRule();
    public DevicePlan Device { get; init; } = new();
    public TemperaturePlan Temperature { get; init; } = new();

    /// <summary>The report's figures in order; none: the whole part from one side.</summary>
    public IReadOnlyList<FigurePlan> Figures { get; init; } = [];

    /// <summary>How its report is put together; null: as usual.</summary>
    public ReportPlan? Report { get; init; }

    [JsonIgnore]
    public ReportPlan Layout => Report ?? new();

    public static readonly JsonSerializerOptions Json = new(JsonSerializerDefaults.Web)
    {
        WriteIndented = true,
        AllowOutOfOrderMetadataProperties = true,
        UnmappedMemberHandling = JsonUnmappedMemberHandling.Disallow,
        DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull,
        NumberHandling = JsonNumberHandling.Strict,
        TypeInfoResolver = new System.Text.Json.Serialization.Metadata.DefaultJsonTypeInfoResolver(),
    };

    /// <exception cref="BadInputException">Not a plan of this version, or one whose parts do not belong together; names the
    /// field.</exception>
    public static InspectionPlan Parse(string json, string name = "plan")
    {
        InspectionPlan plan;
        try
        {
            plan = JsonNode.Parse(json) is JsonObject node
                ? PlanKinds.Checked(PlanUpgrade.Apply(node), name).Deserialize<InspectionPlan>(Json)!
                : throw new BadInputException($"{name}: is empty.");
        }
        catch (JsonException e)
        {
            throw new BadInputException($"{name}: is not an inspection plan: {e.Message}", e);
        }

        plan.Check(name);
        return plan;
    }

    /// <summary>The name of a feature for people; its id when the plan has no such feature.</summary>
    public string NameOf(string feature) => Features.FirstOrDefault(f => f.Id == feature)?.Name
        ?? Constructions.FirstOrDefault(c => c.Id == feature)?.Name ?? feature;

    /// <summary>Ids of all features, measured and constructed, in the order in which they can be made.</summary>
    [JsonIgnore]
    public IEnumerable<string> FeatureIds => Features.Select(f => f.Id).Concat(Constructions.Select(c => c.Id));

    public string ToJson() => JsonSerializer.Serialize(this, Json);

    /// <summary>The JSON schema of a plan.</summary>
    public static string SchemaJson() => PlanSchema.Write().ToJsonString(new(JsonSerializerDefaults.General) { WriteIndented = true });

    /// <summary>Checks what the schema cannot: references and limits.</summary>
    /// <exception cref="BadInputException">Names the field at fault.</exception>
    public void Check(string name = "plan")
    {
        if (Schema != Version)
        {
            throw new BadInputException($"{name}: schema is '{Schema}', this version reads '{Version}'.");
        }

        if (!(Compare.Lower < Compare.Upper))
        {
            throw new BadInputException($"{name}: compare.lower must lie below compare.upper.");
        }

        if (Compare.MaxDistance is <= 0 || !(Compare.MaxAngleDegrees is > 0 and <= 180))
        {
            throw new BadInputException(
                $"{name}: compare.maxDistance must be above 0 mm and compare.maxAngleDegrees above 0 and at most 180 degrees.");
        }

        if (Compare.Labels.Count > ComparePlan.MostLabels || Figures.Count > MostFigures)
        {
            throw new BadInputException($"{name}: at most {ComparePlan.MostLabels} labels and {MostFigures} figures.");
        }

        foreach (var label in Compare.Labels)
        {
            label.Check($"{name}: compare.labels");
        }

        if (Compare.LabelsSay.Count == 0 || Compare.LabelsSay.Distinct().Count() < Compare.LabelsSay.Count)
        {
            throw new BadInputException($"{name}: compare.labelsSay: labels say something, and each thing once.");
        }

        if (Compare.Sections.Count > SectionPlan.Most)
        {
            throw new BadInputException($"{name}: at most {SectionPlan.Most} sections.");
        }

        foreach (var section in Compare.Sections)
        {
            section.Check($"{name}: compare.sections");
        }

        Unique(name, "compare.sections", Compare.Sections.Select(s => s.Name));
        if (Compare.Maps.Count > MapPlan.Most)
        {
            throw new BadInputException($"{name}: at most {MapPlan.Most} maps.");
        }

        foreach (var map in Compare.Maps)
        {
            map.Check($"{name}: compare.maps");
        }

        Unique(name, "compare.maps", Compare.Maps.Select(m => m.Name));
        Compare.Ramp.Check($"{name}: compare.ramp");
        for (var i = 0; i < Figures.Count; i++)
        {
            Figures[i].Check($"{name}: figure {i + 1}");
            if (Figures[i].Map is { } shown && Compare.Maps.All(m => m.Name != shown))
            {
                throw new BadInputException($"{name}: figure {i + 1} shows map '{shown}', which the plan does not have.");
            }
        }

        Report?.Check($"{name}: report");
        CheckLengths(name);
        if (Decision.Fault is { } fault)
        {
            throw new BadInputException($"{name}: decision.{fault}");
        }

        if (!Device.IsPossible || !Temperature.IsPossible)
        {
            throw new BadInputException(
                $"{name}: device and temperature: errors, uncertainties and the expansion must be 0 or more, the deviation below 1000 K.");
        }

        for (var i = 0; i < Prepare.Steps.Count; i++)
        {
            Prepare.Steps[i].Check($"{name}: prepare step {i + 1}");
        }

        var labels = Datums.Select(d => d.Label).ToHashSet();
        if (Align.Faults(labels).FirstOrDefault() is { } wrong)
        {
            throw new BadInputException($"{name}: align.{wrong}");
        }

        Unique(name, "alignments", Alignments.Select(a => a.Name));
        if (PlanAlignments.Faults(this, labels).FirstOrDefault() is { } misnamed)
        {
            throw new BadInputException($"{name}: {misnamed}");
        }

        if (Features.FirstOrDefault(f => f.EdgeLoss is { } loss && (f.EdgeOf is null || !(loss >= 0 && double.IsFinite(loss))))
            is { } lossy)
        {
            throw new BadInputException($"{name}: feature '{lossy.Name}': edgeLoss must be 0 mm or more, of a feature with edgeOf.");
        }

        if (Features.FirstOrDefault(f => f.Targets is { } targets
            && (f.EdgeOf is not null || targets.Count > MostTargets || !targets.All(t => t.IsPossible))) is { } aimed)
        {
            throw new BadInputException($"{name}: feature '{aimed.Name}': a surface has at most {MostTargets} targets, each with three "
                + "coordinates and a radius above 0 mm.");
        }

        if (Features.FirstOrDefault(f => f.Region is { } region
            && (f.EdgeOf is not null || f.Targets is not null || f.Faces.Length > 0 || !region.IsPossible)) is { } grown)
        {
            throw new BadInputException($"{name}: feature '{grown.Name}': a region of the scan has a place, an area, and the numbers of a "
                + "plane, cylinder, cone, sphere or torus, and no faces, targets or edge beside them.");
        }

        Unique(name, "features", FeatureIds);
        Unique(name, "datums", Datums.Select(d => d.Label));
        Unique(name, "characteristics", Characteristics.Select(c => c.No.ToString(System.Globalization.CultureInfo.InvariantCulture)));
        var known = Features.Select(f => f.Id).ToHashSet();
        foreach (var c in Constructions)
        {
            if (c.Faults().FirstOrDefault() is { } lacks)
            {
                throw new BadInputException($"{name}: construction '{c.Name}': {lacks}");
            }

            Refer(name, $"construction '{c.Name}'", c.From, known);
            known.Add(c.Id);
        }

        Refer(name, "align", Align.NamedFeatures, known);
        foreach (var map in Compare.Maps)
        {
            Refer(name, $"map '{map.Name}'", map.NamedFeatures, known);
        }

        foreach (var a in Alignments)
        {
            Refer(name, $"alignment '{a.Name}'", a.Align.NamedFeatures, known);
        }

        foreach (var d in Datums)
        {
            Refer(name, $"datum {d.Label}", d.Features, known);
        }

        foreach (var c in Characteristics)
        {
            CheckOne(name, c);
            Refer(name, $"characteristic {c.No}", c.Refers.Features, known);
            if (c.Refers.Letters.FirstOrDefault(l => !labels.Contains(l)) is { } missing)
            {
                throw new BadInputException($"{name}: characteristic {c.No} names datum {missing}, which the plan does not have.");
            }

            if (c.Refers.Section is { } section && Compare.Sections.All(s => s.Name != section))
            {
                throw new BadInputException($"{name}: characteristic {c.No} lies in section '{section}', which the plan does not have.");
            }
        }
    }

    /// <summary>Checks that the nominal has every face the plan names, determines every construction and is met by every
    /// section.</summary>
    /// <exception cref="BadInputException">Names who names which face, or the construction.</exception>
    public void CheckFaces(NominalModel nominal, string name = "plan")
    {
        IEnumerable<(string Who, int Face)> named =
        [
            .. Features.SelectMany(f => f.EdgeOf is { } side ? [.. f.Faces, side] : f.Faces, (f, face) => ($"feature '{f.Name}'", face)),
            .. Characteristics.SelectMany(c => c.Refers.Faces, (c, face) => ($"characteristic {c.No}", face)),
            .. Align.NamedFaces.Select(face => ("align", face)),
            .. Alignments.SelectMany(a => a.Align.NamedFaces, (a, face) => ($"alignment '{a.Name}'", face)),
            .. Compare.Maps.SelectMany(m => m.Faces, (m, face) => ($"map '{m.Name}'", face)),
        ];
        foreach (var (who, face) in named)
        {
            if (face < 0 || face >= nominal.Faces.Count)
            {
                throw new BadInputException(
                    $"{name}: {who} names face {face}; this nominal has faces 0 to {nominal.Faces.Count - 1}. Is it another part's plan?");
            }
        }

        foreach (var section in Compare.Sections)
        {
            var plane = section.Plane();
            var heights = Enumerable.Range(0, nominal.Mesh.VertexCount).Select(v => plane.Distance(nominal.Mesh.Vertex(v)));
            if (!heights.Any(h => h < 0) || !heights.Any(h => h >= 0))
            {
                throw new BadInputException($"{name}: section '{section.Name}' does not cut the nominal.");
            }
        }

        foreach (var (feature, target) in Features.SelectMany(f => f.Targets ?? [], (f, t) => (f, t)))
        {
            if (target.Off(feature.Faces, nominal) is var off && off > target.Radius)
            {
                throw new BadInputException(FormattableString.Invariant(
                    $"{name}: feature '{feature.Name}': a target lies {off:0.##} mm off its faces, farther than its radius."));
            }
        }

        var nominals = new PlanNominals(this, nominal);
        foreach (var c in Constructions)
        {
            nominals.Of(c);
        }
    }

    /// <summary>Names are for people: long ones would break every table they stand in.</summary>
    private void CheckLengths(string name)
    {
        var texts = new[] { Part, Revision }.Concat(Features.SelectMany(f => new[] { f.Id, f.Name }))
            .Concat(Constructions.SelectMany(c => new[] { c.Id, c.Name })).Concat(Datums.Select(d => d.Label))
            .Concat(Characteristics.Select(c => c.Name));
        if (texts.FirstOrDefault(t => t.Length > MostName) is { } longest)
        {
            throw new BadInputException($"{name}: '{longest[..20]}…' is longer than {MostName} characters.");
        }
    }

    private static void CheckOne(string name, CharacteristicPlan c)
    {
        if (c.Faults().FirstOrDefault() is { } fault)
        {
            throw new BadInputException($"{name}: characteristic {c.No}: {fault}");
        }
    }

    private static void Unique(string name, string field, IEnumerable<string> ids)
    {
        if (ids.GroupBy(i => i).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            throw new BadInputException($"{name}: {field}: '{twice.Key}' appears twice.");
        }
    }

    private static void Refer(string name, string who, IEnumerable<string> ids, HashSet<string> known)
    {
        if (ids.FirstOrDefault(i => !known.Contains(i)) is { } missing)
        {
            throw new BadInputException($"{name}: {who} names feature '{missing}', which the plan does not have.");
        }
    }
}

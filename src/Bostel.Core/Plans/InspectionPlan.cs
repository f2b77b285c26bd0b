using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Serialization;
using Bostel.Core.Features;
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
public sealed partial record InspectionPlan
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

    /// <summary>The drawing's general tolerances, for rows that have none of their own; null: it states none.</summary>
    public GeneralTolerances? General { get; init; }

    /// <summary>The unit in which lengths are shown, on the screen and in the report.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public ShownUnit Shown { get; init; }

    public DecisionRule Decision { get; init; } = new StandardRule();
    public DevicePlan Device { get; init; } = new();
    public TemperaturePlan Temperature { get; init; } = new();

    /// <summary>
    /// Whether each number is found in other reasonable ways as well (other criteria, edge margins, filters, alignments), so that a verdict
    /// that rests on such a choice says so.
    /// </summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool OtherWays { get; init; }

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

    /// <summary>The features on the scan that these are or are made from, each once.</summary>
    public IEnumerable<FeaturePlan> MeasuredFor(IEnumerable<string> ids)
    {
        IEnumerable<string> Measured(string id) =>
            Constructions.FirstOrDefault(c => c.Id == id) is { } made ? made.From.SelectMany(Measured) : [id];
        var all = ids.SelectMany(Measured).ToHashSet();
        return Features.Where(f => all.Contains(f.Id));
    }

    public string ToJson() => JsonSerializer.Serialize(this, Json);

    /// <summary>The JSON schema of a plan.</summary>
    public static string SchemaJson() => PlanSchema.Write().ToJsonString(new(JsonSerializerDefaults.General) { WriteIndented = true });
}

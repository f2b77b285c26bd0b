using System.Text.Json.Serialization;

namespace Bostel.Core.Plans;

/// <summary>Sizes of paper.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<PaperSize>))]
public enum PaperSize
{
    [JsonStringEnumMemberName("a4")]
    A4,

    [JsonStringEnumMemberName("letter")]
    Letter,
}

/// <summary>How a report is put together; kept with the plan, so that every next piece gets its report without a click.</summary>
public sealed record ReportPlan
{
    public const int MostBlocks = 60;
    public const int MostHouse = 500;

    /// <summary>What comes by itself: the verdict and where it comes from first, how it was found after it.</summary>
    public static readonly IReadOnlyList<ReportBlock> Usual =
    [
        new SummaryBlock(), new OverviewBlock(), new TableBlock(), new EvidenceBlock(), new FiguresBlock(), new SectionsBlock(),
        new DeviationBlock(), new ExplainedBlock(), new MapsBlock(), new AlignmentBlock { Half = true },
        new PreparationBlock { Half = true }, new RulesBlock(), new SignaturesBlock(),
    ];

    /// <summary>Parts in order; none: the usual ones.</summary>
    public IReadOnlyList<ReportBlock> Blocks { get; init; } = [];

    [JsonIgnore]
    public IReadOnlyList<ReportBlock> Printed => Blocks.Count > 0 ? Blocks : Usual;

    /// <summary>In the place of "Dimensional inspection report".</summary>
    public string Title { get; init; } = "";

    /// <summary>Name and address of who issues it, in lines.</summary>
    public string House { get; init; } = "";

    public ReportPicture? Logo { get; init; }

    public PaperSize Paper { get; init; }

    /// <summary>Copies that go out by themselves.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingNull)]
    public IReadOnlyList<CopyPlan>? Copies { get; init; }

    /// <summary>A report holds only once another person has countersigned it.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool Countersigned { get; init; }

    /// <exception cref="BadInputException">Names what is wrong.</exception>
    public void Check(string name)
    {
        if (Blocks.Count > MostBlocks || Title.Length > InspectionPlan.MostName || House.Length > MostHouse)
        {
            throw new BadInputException($"{name}: a report has at most {MostBlocks} parts, {InspectionPlan.MostName} letters in its title "
                + $"and {MostHouse} in its address.");
        }

        if (Logo?.Fault is { } fault)
        {
            throw new BadInputException($"{name}.logo: {fault}");
        }

        if (Copies?.Count > CopyPlan.Most)
        {
            throw new BadInputException($"{name}: at most {CopyPlan.Most} copies go out of a report.");
        }

        foreach (var (i, copy) in (Copies ?? []).Index())
        {
            if (copy.Fault is { } wrong)
            {
                throw new BadInputException($"{name}: copy {i + 1}: {wrong}");
            }
        }

        foreach (var (i, block) in Blocks.Index())
        {
            if (block.Fault is { } wrong)
            {
                throw new BadInputException($"{name}: part {i + 1}: {wrong}");
            }
        }
    }
}

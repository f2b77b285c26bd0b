using System.Text.Json.Serialization;

namespace Bostel.Core.Plans;

/// <summary>One part of a report. The kinds are a closed set; what each prints is drawn from stored outcomes alone.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "kind")]
[JsonDerivedType(typeof(SummaryBlock), "summary")]
[JsonDerivedType(typeof(OverviewBlock), "overview")]
[JsonDerivedType(typeof(TableBlock), "table")]
[JsonDerivedType(typeof(EvidenceBlock), "evidence")]
[JsonDerivedType(typeof(FiguresBlock), "figures")]
[JsonDerivedType(typeof(SectionsBlock), "sections")]
[JsonDerivedType(typeof(DeviationBlock), "deviation")]
[JsonDerivedType(typeof(ExplainedBlock), "explained")]
[JsonDerivedType(typeof(MapsBlock), "maps")]
[JsonDerivedType(typeof(AlignmentBlock), "alignment")]
[JsonDerivedType(typeof(PreparationBlock), "preparation")]
[JsonDerivedType(typeof(RulesBlock), "rules")]
[JsonDerivedType(typeof(NoteBlock), "note")]
[JsonDerivedType(typeof(PictureBlock), "picture")]
[JsonDerivedType(typeof(PageBlock), "page")]
[JsonDerivedType(typeof(SignaturesBlock), "signatures")]
public abstract record ReportBlock
{
    /// <summary>Half the width of the page: two of them in a row stand beside each other.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool Half { get; init; }

    /// <summary>The kind as plans write it.</summary>
    [JsonIgnore]
    public string Kind => Kinds.NameOf(this);

    /// <summary>What is wrong with it; null when nothing.</summary>
    internal virtual string? Fault => null;
}

/// <summary>The verdict in a sentence, with what does not conform.</summary>
public sealed record SummaryBlock : ReportBlock;

/// <summary>The part from two sides with a numbered balloon for each row.</summary>
public sealed record OverviewBlock : ReportBlock;

/// <summary>The characteristics.</summary>
public sealed record TableBlock : ReportBlock
{
    /// <summary>Only rows that are not proven to conform.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool OnlyOpen { get; init; }

    /// <summary>Without the line on how each number was obtained.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool WithoutMethod { get; init; }
}

/// <summary>A figure for each row that does not conform, with what its uncertainty is made of.</summary>
public sealed record EvidenceBlock : ReportBlock
{
    public const int Most = 24;

    /// <summary>Rows that are not proven, too.</summary>
    [JsonIgnore(Condition = JsonIgnoreCondition.WhenWritingDefault)]
    public bool NotProven { get; init; }
}

/// <summary>The plan's figures.</summary>
public sealed record FiguresBlock : ReportBlock;

/// <summary>The plan's sections.</summary>
public sealed record SectionsBlock : ReportBlock;

/// <summary>Statistics of the surface deviation, and the areas beyond the band.</summary>
public sealed record DeviationBlock : ReportBlock;

/// <summary>What the deviation is made of.</summary>
public sealed record ExplainedBlock : ReportBlock;

/// <summary>Statistics of the plan's further maps.</summary>
public sealed record MapsBlock : ReportBlock;

/// <summary>How the scan was aligned.</summary>
public sealed record AlignmentBlock : ReportBlock;

/// <summary>What was done to the data.</summary>
public sealed record PreparationBlock : ReportBlock;

/// <summary>Standards, uncertainty, device and decision rule.</summary>
public sealed record RulesBlock : ReportBlock;

/// <summary>A text of one's own.</summary>
public sealed record NoteBlock : ReportBlock
{
    public const int MostText = 5000;

    public string Title { get; init; } = "";

    public string Text { get; init; } = "";

    internal override string? Fault => Title.Length > InspectionPlan.MostName || Text.Length > MostText
        ? $"a note has at most {InspectionPlan.MostName} letters in its title and {MostText} in its text."
        : null;
}

/// <summary>A picture brought in.</summary>
public sealed record PictureBlock : ReportBlock
{
    public ReportPicture? Picture { get; init; }

    public string Caption { get; init; } = "";

    internal override string? Fault => Picture is null ? "a picture block holds a picture."
        : Caption.Length > FigurePlan.MostCaption ? $"a caption has at most {FigurePlan.MostCaption} letters."
        : Picture.Fault;
}

/// <summary>What follows begins on a new page.</summary>
public sealed record PageBlock : ReportBlock;

/// <summary>Places for signatures.</summary>
public sealed record SignaturesBlock : ReportBlock;

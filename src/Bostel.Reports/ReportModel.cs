using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Geometry;
using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>A figure ready to print: what it shows, what its labels read, its PNG, its size in pixels, its colours.</summary>
/// <param name="Part">The box round the nominal.</param>
/// <param name="Map">Null: the deviation.</param>
public sealed record ReportFigure(
    FigurePlan Figure, IReadOnlyList<LabelReading> Labels, byte[] Png, int Width, int Height, ColourScale Scale, Box3D Part,
    MapPlan? Map, IReadOnlyList<double> Histogram);

/// <summary>What a report says of a further map: its statistics, without the surface that it lies on.</summary>
/// <param name="Statistics">Null: it could not be made, and the remarks say why.</param>
public sealed record ReportMap(MapPlan Plan, DeviationStatistics? Statistics, IReadOnlyList<string> Remarks)
{
    public static ReportMap Of(MadeMap made) => new(made.Plan, made.Map?.Statistics, made.Map?.Remarks ?? [made.Failure!]);
}

/// <summary>A section of the plan cut on the piece.</summary>
/// <param name="Marks">Of the characteristics that lie in it.</param>
public sealed record ReportSection(SectionPlan Plan, SectionSheet Sheet, IReadOnlyList<SectionMark> Marks);

/// <summary>Who and what a report is about, and which withdrawn reports it replaces.</summary>
public sealed record ReportHeader(string Number, string Part, string PartName, string Revision, string Piece, string Plan, string Inspector,
    DateTimeOffset Date, string NominalFile, string ScanFile, string Unit,
    IReadOnlyList<string> Replaces)
{
    /// <summary>Where the report is found in the register, printed as a code; null: nowhere.</summary>
    public string? Address { get; init; }
}

/// <summary>All that a report says. Every writer draws on this and nothing else.</summary>
public sealed record ReportModel(
    ReportHeader Header, InspectionPlan Plan, PreparationRecord Preparation, AlignedOutcome Aligned,
    IReadOnlyList<NamedOutcome> Named, ComparedOutcome Compared,
    IReadOnlyList<CharacteristicResult> Rows, IReadOnlyList<ReportFigure> Figures, IReadOnlyList<ReportSection> Sections,
    IReadOnlyList<ReportMap> Maps, IReadOnlyList<AreaBeyond> Areas, PieceExplanation? Explained)
{
    /// <summary>The rows as their drawing writes them.</summary>
    public IReadOnlyList<DrawnText> Drawn { get; init; } = [];

    public IReadOnlyList<MeasuredFeature> Features { get; init; } = [];

    public IReadOnlyList<OverviewFigure> Overview { get; init; } = [];

    public IReadOnlyList<EvidenceFigure> Evidence { get; init; } = [];

    /// <summary>The row that is farthest out for its tolerance, seen near; null when none is.</summary>
    public EvidenceFigure? Worst { get; init; }

    public AlignmentResult Alignment => Aligned.Result;

    public DeviationStatistics Statistics => Compared.Statistics;

    public Verdict Verdict => InspectionResult.Overall(Rows.Select(r => r.Verdict));
}

/// <summary>What the stations gave of a piece.</summary>
/// <param name="Map">The scan with its deviations in the alignment in which the map stands.</param>
public sealed record JudgedPiece(
    PreparationRecord Preparation, AlignedOutcome Aligned, IReadOnlyList<NamedOutcome> Named, ComparedOutcome Compared, AlignedScan Map,
    IReadOnlyList<MeasuredFeature> Features, IReadOnlyList<CharacteristicResult> Rows);

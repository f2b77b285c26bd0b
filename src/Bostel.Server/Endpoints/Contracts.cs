using System.Text.Json.Serialization;
using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Features;
using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Core.Selecting;
using Bostel.Core.Statistics;
using Bostel.Core.Tolerancing;
using Bostel.Data;
using Bostel.Data.Register;
using Bostel.Server.Services;

namespace Bostel.Server.Endpoints;

// What goes over the wire. The web's types are generated from these through OpenAPI.
public sealed record SignIn(string User, string Password);

/// <summary>
/// Who is signed in; an empty name and no role: nobody. With a password given by somebody else nothing can be done before it is changed.
/// </summary>
public sealed record SessionView(string User, Role? Role, bool MustChangePassword);

public sealed record PasswordChange(string Old, string New);

public sealed record PersonView(Guid Id, string Name, Role Role, bool Disabled, bool MustChangePassword, DateTimeOffset CreatedAt);

public sealed record NewPerson(string Name, Role Role);

public sealed record PersonChange(Role Role, bool Disabled);

/// <summary>A password that is told once and must be changed at the next sign-in.</summary>
public sealed record OneTimePassword(string Name, string Password);

public sealed record PartSummary(Guid Id, string Number, string Name, string Revision, Guid? NominalId, int Waiting, int Conforming,
    int NonConforming, int NotProven, int PlanNumber, int CharacteristicCount, IReadOnlyList<RecentVerdict> Recent);

/// <summary>A piece among the last ones of a part.</summary>
public sealed record RecentVerdict(string Serial, Guid PieceId, Verdict Verdict);

/// <summary>
/// The numbers of a part over the pieces judged last, the oldest first. Those that need a look stand first: what moves, what was not
/// measured, then what uses most of its tolerance.
/// </summary>
public sealed record TrendView(ShownUnit Shown, IReadOnlyList<RecentVerdict> Pieces, IReadOnlyList<TrendRow> Rows);

/// <param name="Values">One a piece; null: the piece was not judged by it.</param>
/// <param name="Ppk">Long-term capability (ISO 22514-2); null where the values are too few or all alike.</param>
/// <param name="Drift">Null where the values are too few.</param>
public sealed record TrendRow(int No, string Name, string Unit, int Decimals, double? Nominal, double? Lower, double? Upper,
    IReadOnlyList<TrendValue?> Values, double? Ppk, Drift? Drift);

public sealed record TrendValue(double? Measured, double? Uncertainty, Verdict Verdict);

/// <summary>One page of a list and how long the list is.</summary>
public sealed record PiecePage(int Total, IReadOnlyList<PieceSummary> Pieces);

/// <summary>How far a piece is. Out of date: something changed since its verdict.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<PieceState>))]
public enum PieceState
{
    [JsonStringEnumMemberName("waiting")]
    Waiting,

    [JsonStringEnumMemberName("evaluated")]
    Evaluated,

    [JsonStringEnumMemberName("out-of-date")]
    OutOfDate,

    [JsonStringEnumMemberName("issued")]
    Issued,
}

/// <param name="Work">What is waiting or under way.</param>
public sealed record PieceSummary(Guid Id, Guid PartId, string PartNumber, string Serial, PieceState State, Verdict? Verdict, int Vertices,
    int Triangles, DateTimeOffset CreatedAt, string? Problem, string? ReportNumber, int? JudgedOnPlan, string? RunKey,
    JobView? Work);

public sealed record FloorView(IReadOnlyList<PartSummary> Parts);

public sealed record NewPart(string Number, string Name, string Revision);

public sealed record Upload(string Sha, string FileName, long Length);

public sealed record NominalFromUpload(string Sha, string FileName, string Unit);

public sealed record NewPiece(Guid PartId, string Serial, string Sha, string FileName, string Unit);

public sealed record BodyView(string Name, string? Color);

/// <param name="Sweep">How far a round face goes about its axis, rad.</param>
public sealed record FaceView(int Id, string Kind, double Area, bool Internal, double[] Numbers, double[] Center, double Start, double End,
    double Sweep, int Body, string? Color);

/// <param name="IsReference">It is a scan, and its coordinates can be set.</param>
public sealed record NominalView(Guid Id, string FileName, string Unit, double[] SizeMm, double Area, int Triangles,
    IReadOnlyList<FaceView> Faces, IReadOnlyList<string> Remarks, IReadOnlyList<BodyView> Bodies, bool IsReference);

/// <summary>Two places whose distance is asked.</summary>
public sealed record DistanceRequest(PickedPlace A, PickedPlace B);

/// <summary>The piece whose scan becomes the reference of its part.</summary>
public sealed record ReferenceRequest(Guid Piece);

/// <param name="Factor">Width of the guard bands over U.</param>
/// <param name="Words">The rule as screen and report say it.</param>
public sealed record DecisionView(double Factor, string Words);

/// <summary>What a characteristic asks, as ledger and report write it.</summary>
public sealed record AskedView(int No, Limits Limits, string Unit, int Decimals);

/// <param name="GeneralTolerances">In words; null: the plan states none.</param>
/// <param name="Conditions">Device and temperature as screen and report say them.</param>
/// <param name="Asked">One for each characteristic, in the plan's order.</param>
/// <param name="ReleasedBy">Null: it is not released, and no report is issued under it.</param>
/// <param name="Printed">The parts of its report: its own, or the usual ones.</param>
public sealed record PlanView(
    int Number, bool CanUndo, bool CanRedo, string? ReleasedBy, InspectionPlan Plan, DecisionView Decision, string Standard,
    string? GeneralTolerances, string Conditions, IReadOnlyList<AskedView> Asked, IReadOnlyList<ReportBlock> Printed);

public sealed record PlanEdit(int BasedOn, InspectionPlan Plan);

public sealed record PlanStep(int BasedOn);

/// <summary>Back to the revision of a number.</summary>
public sealed record PlanReturn(int BasedOn, int Number);

/// <param name="Json">The file's text, a plan of this version or an earlier one.</param>
public sealed record PlanLoad(int BasedOn, string FileName, string Json);

/// <param name="From">The part whose plan is taken.</param>
public sealed record PlanCopy(int BasedOn, Guid From);

public sealed record PlanRelease(int Number);

/// <summary>Faces of the nominal in the order they were picked.</summary>
public sealed record PickedFaces(IReadOnlyList<int> Faces);

/// <summary>Ids of features of the plan in the order they were picked.</summary>
public sealed record PickedFeatures(IReadOnlyList<string> Features);

/// <summary>Features of the plan, and faces of the nominal.</summary>
public sealed record Picked(IReadOnlyList<int> Faces, IReadOnlyList<string>? Features = null);

/// <summary>A characteristic, and what it shall say as it is written on a drawing.</summary>
public sealed record Written(CharacteristicPlan Characteristic, string Text);

/// <summary>What a plan is proposed from.</summary>
/// <param name="Sources">Null: product information of the file and the table, as far as there are, else the faces.</param>
public sealed record ProposalAsked(IReadOnlyList<ProposalSource>? Sources = null, TableFile? Table = null);

/// <param name="Bytes">Base64.</param>
public sealed record TableFile(string FileName, byte[] Bytes);

public sealed record UnitGuess(string Unit, bool Agrees);

[JsonConverter(typeof(JsonStringEnumConverter<StationState>))]
public enum StationState
{
    [JsonStringEnumMemberName("notStarted")]
    NotStarted,

    [JsonStringEnumMemberName("done")]
    Done,

    [JsonStringEnumMemberName("needsLook")]
    NeedsLook,

    [JsonStringEnumMemberName("outOfDate")]
    OutOfDate,
}

public sealed record StationView(string Key, StationState State, string Line);

/// <summary>A feature measured just now, with the residuals of the scan vertices it rests on, and these laid flat.</summary>
public sealed record MeasuredView(MeasuredFeature Feature, double[] Residuals, StageEvidence Evidence, ResidualMap? Map);

public sealed record StatisticsView(
    int Count, double NoData, double? Min, double? Max, double? Mean, double? Std, double? Rms, double? WithinTolerance,
    IReadOnlyDictionary<string, double> Percentiles);

/// <summary>An alignment with the plan's section that made it and that in words.</summary>
public sealed record AlignmentView(
    double[] Transform, double Rms, double Inliers, double Coverage, double Condition, bool Resembles, bool Mirrored, string? Problem,
    int PointsUsed, IReadOnlyList<AlternativeView> Alternatives,
    AlignPlan How, string Method)
{
    /// <summary>What holds each of the six motions.</summary>
    public IReadOnlyList<HeldMotion> Motions { get; init; } = [];

    /// <summary>What each datum, reference point or pair did.</summary>
    public IReadOnlyList<AlignmentStep> Steps { get; init; } = [];

    /// <summary>Surface on which the pose was told from others that fit nearly as well, mm².</summary>
    public double? DecidedOn { get; init; }

    /// <summary>Expanded uncertainty (k = 2) of the place of the part's worst known corner, mm; null where it cannot be told.</summary>
    public double? FarthestU { get; init; }
}

public sealed record AlternativeView(double[] Transform, double Rms, double TimesWorse);

/// <summary>A comparison: the band it was summed up in, and how counterparts were sought, in words.</summary>
public sealed record ComparisonView(double Lower, double Upper, string Method, StatisticsView Statistics);

/// <summary>
/// What is kept of a piece. Each station's outcome is today's, or the last one made and then out of date; the stations say which.
/// <see cref="Stale"/> is of the verdict: it must not be issued. The stages say what to draw while looking at the alignment, and at what
/// was compared and measured in it.
/// </summary>
public sealed record RunView(
    Guid? Id, int? PlanNumber, bool Stale, PreparationRecord? Preparation, AlignmentView? Alignment, ComparisonView? Comparison,
    Verdict? Verdict, IReadOnlyList<MeasuredFeature> Features,
    IReadOnlyList<CharacteristicResult> Characteristics, StageSource? AlignStage, StageSource? CompareStage, StageSource? OwnStage,
    IReadOnlyList<NamedAlignmentView> Named);

/// <summary>How far one of the plan's further alignments lies from the plan's own; null: it has no pose.</summary>
public sealed record AlignmentChangeView(string Name, PoseChange? Change);

/// <summary>One of the plan's further alignments on a piece.</summary>
/// <param name="Alignment">Null: not carried out yet, or it determines no pose.</param>
public sealed record NamedAlignmentView(string Name, AlignmentView? Alignment, StageSource? Stage);

public sealed record PieceView(
    Guid Id, Guid PartId, string PartNumber, string PartName, string Revision, string Serial, string FileName, string Unit, string? Format,
    int Vertices, int Triangles, double[] RawSize, double[] SizeMm,
    IReadOnlyList<string> Remarks, string? Problem, string? Columns, Guid? NominalId, double[]? NominalSizeMm, UnitGuess? Guess,
    int PlanNumber, RunView? Run, IReadOnlyList<StationView> Stations, IReadOnlyList<JobView> Jobs);

public sealed record PiecesView(IReadOnlyList<ConnectedPiece> Pieces);

public sealed record UnitChange(string Unit);

public sealed record ColumnsChange(string Columns);

/// <summary>A file's data sheet, what to mind about it, and for a text of points how its columns were taken.</summary>
public sealed record SheetView(MeshSheet Sheet, IReadOnlyList<Advice> Advice, string? Columns, IReadOnlyList<string> FirstLines);

public sealed record PreviewRequest(IReadOnlyList<PrepareStep> Steps);

/// <summary>The scan after some steps: what they did, its data sheet and advice.</summary>
public sealed record PreviewView(PreparationRecord Record, MeshSheet Sheet, IReadOnlyList<Advice> Advice, double LargestDisplacement);

public sealed record SelectionRequest(IReadOnlyList<PrepareStep> Steps, IReadOnlyList<SelectionTerm> Terms);

/// <summary>
/// What terms select on the scan after some steps: a bit for each triangle (each point of a cloud), lowest bit first, as base64.
/// </summary>
public sealed record SelectionView(int Count, int Of, double Area, string Mask);

public sealed record AnchorRequest(PrepareStep Step);

public sealed record AnchorView(PrepareStep Step, string? Caution);

public sealed record StartJob(JobKind Kind);

public sealed record JobView(
    Guid Id, JobKind Kind, Guid SubjectId, JobState State, double Share, string What, string? Error, DateTimeOffset CreatedAt);

/// <summary>
/// Measures a feature as its plan says, whether it is in the plan of the part or not; or makes a construction of those in it.
/// </summary>
public sealed record MeasureRequest(FeaturePlan? Feature = null, ConstructionPlan? Construction = null);

/// <summary>A place of the scan in nominal coordinates, mm, about which a region is to be grown.</summary>
public sealed record RegionPick(double[] At);

/// <summary>A way of aligning to be tried; with the verdicts it would change, which takes longer.</summary>
/// <param name="Alignment">Name of the plan's alignment that would be held so; null: its own.</param>
public sealed record AlignTry(AlignPlan Align, bool Verdicts, string? Alignment = null);

public sealed record TrialView(AlignmentView Alignment, PoseChange? Change, IReadOnlyList<VerdictChange> Verdicts);

/// <summary>A map of a piece, without its values.</summary>
/// <param name="Lower">Where its colours begin, and whether that is a limit.</param>
/// <param name="Upper">Where they end, and whether that is a limit.</param>
public sealed record MapView(
    string Words, string Unit, bool OnNominal, DeviationStatistics Statistics, double Lower, bool LowerBinds, double Upper, bool UpperBinds,
    IReadOnlyList<string> Remarks)
{
    public static MapView Of(PieceMap map, InspectionPlan plan)
    {
        var scale = map.Scale(plan.Compare.Ramp);
        return new(
            map.Plan.Words(plan), map.Plan.Unit, map.Plan.OnNominal, map.Statistics, scale.Lower, scale.LowerBinds, scale.Upper,
            scale.UpperBinds, map.Remarks);
    }
}

/// <param name="Smallest">Smaller areas are left out, mm²; null: those of a few points.</param>
public sealed record AreasRequest(double Lower, double Upper, double? Smallest);

public sealed record AreasView(IReadOnlyList<AreaBeyond> Areas);

/// <summary>A characteristic's number found in other ways than the plan's.</summary>
public sealed record OtherWaysView(IReadOnlyList<OtherWay> Ways);

/// <summary>Places on a section's lines and arcs, in space: one, or two.</summary>
public sealed record SectionPartsRequest(SectionPlan Section, double[][] Parts);

/// <summary>What can be measured there, each with its value on the piece.</summary>
public sealed record SectionOffersView(IReadOnlyList<CharacteristicResult> Offers);

/// <summary>One error that stands out.</summary>
/// <param name="Rms">Root mean square of the deviation that it makes, mm.</param>
/// <param name="Faces">It is told of; none: the whole part.</param>
public sealed record FindingView(ExplainedPart Part, string Words, double Rms, IReadOnlyList<int> Faces);

/// <summary>One face, what holds for the whole part taken out.</summary>
public sealed record FaceErrorsView(string Name, FaceErrors Errors);

/// <summary>What a piece's deviation is made of.</summary>
public sealed record ExplanationView(
    double Rms, IReadOnlyList<ExplainedStep> Steps, IReadOnlyList<FindingView> Findings, IReadOnlyList<FaceErrorsView> Faces, double Usual)
{
    public static ExplanationView Of(Explanation explanation, Func<int, string> name) => new(
        explanation.Rms, explanation.Steps,
        [.. explanation.Findings.Select(f => new FindingView(f.Part, f.Words(name), f.Rms, f.OnFaces))],
        [.. explanation.Faces.Select(f => new FaceErrorsView(name(f.Face), f))], explanation.Usual);
}

/// <param name="Map">That the labels read; null: the deviation.</param>
public sealed record ReadingsRequest(IReadOnlyList<LabelPlan> Labels, MapPlan? Map = null);

public sealed record ReadingsView(IReadOnlyList<LabelReading> Readings);

/// <summary>A layout of reports under a name.</summary>
public sealed record LayoutView(string Name, bool ForNewParts, string ChangedBy, DateTimeOffset ChangedAt, ReportPlan Report);

public sealed record LayoutEdit(ReportPlan Report, bool ForNewParts);

/// <param name="Password">One's own, asked for again: issuing is signing.</param>
public sealed record Issuing(IReadOnlyList<Guid> Pieces, string Password);

/// <summary>The work that issues a piece's report, or what stands in the way.</summary>
public sealed record IssuingView(Guid Piece, JobView? Job, string? Problem);

public sealed record Withdrawal(string Why, string Password);

/// <summary>One's own password, asked for again.</summary>
public sealed record Countersignature(string Password);

/// <summary>Whether a file is what was issued.</summary>
/// <param name="Sha">SHA-256 of the file.</param>
/// <param name="Format">Which file of the report it is; null: it was not issued here.</param>
/// <param name="Entry">The line of the register that tells of it.</param>
public sealed record VerificationView(string Sha, ReportFormat? Format, ReportView? Report, RegisterEntryView? Entry);

/// <param name="PublicKey">Of who signed the hash; the signature can be checked with it and without this server.</param>
public sealed record RegisterEntryView(
    int Number, RegisterEvent Event, string Report, string Who, DateTimeOffset At, string Content, string Before, string Hash,
    string Signature, string? PublicKey);

/// <summary>A report with all that was entered of it.</summary>
public sealed record ReportRecordView(ReportView Report, IReadOnlyList<RegisterEntryView> Entries);

/// <summary>What going through the whole register found.</summary>
public sealed record RegisterCheckView(int Entries, IReadOnlyList<RegisterFault> Faults);

public sealed record ReportView(Guid Id, string Number, Guid PieceId, string PartNumber, string Serial, Verdict Verdict, int PlanNumber,
    string IssuedBy, DateTimeOffset IssuedAt, string PdfSha, string CsvSha, string XlsxSha,
    DateTimeOffset? WithdrawnAt, string? WithdrawnBy, string? WithdrawnWhy, bool Holds, bool NeedsCountersignature,
    DateTimeOffset? CountersignedAt, string? CountersignedBy, string? SupersededBy, IReadOnlyList<ReportFormat> Formats);

/// <summary>A copy of a report that goes out, or went: the work that does it.</summary>
public sealed record DeliveryView(JobView Job, string Number, CopyPlan Copy);

/// <summary>What goes out of the reports, the last first.</summary>
/// <param name="Mail">Where letters go: the folder of the outbox, or the server that takes them.</param>
/// <param name="Folder">Of the copies.</param>
public sealed record OutboxView(string Mail, string Folder, IReadOnlyList<DeliveryView> Recent);

/// <summary>One page of the log and how many lines there are.</summary>
public sealed record LogPage(int Total, IReadOnlyList<AuditView> Lines);

public sealed record AuditView(long Id, DateTimeOffset At, string Who, string Action, string Subject, string Detail);

/// <summary>The watched folder and what came of the files last put there.</summary>
public sealed record IntakeView(string Folder, IReadOnlyList<AuditView> Recent);

public sealed record Capture(Guid PartId, string Serial, int Seed, double Spacing, double Noise, string Unit, int StrayPieces,
    bool TablePatch, IReadOnlyList<Bostel.Scanner.PlantedError> Errors,
    string Device = "all-round", double Coat = 0, double NoiseGrowth = 0, double Misregistration = 0, double NarrowestFace = 0,
    bool Fixture = false, bool Cloud = false);

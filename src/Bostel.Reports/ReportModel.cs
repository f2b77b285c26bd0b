using Bostel.Core.Alignment;
using Bostel.Core.Comparison;
using Bostel.Core.Figures;
using Bostel.Core.Plans;
using Bostel.Core.Preparation;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>A figure ready to print: its state, its PNG, its size in pixels.</summary>
public sealed record ReportFigure(FigureState State, byte[] Png, int Width, int Height);

/// <summary>Who and what a report is about.</summary>
public sealed record ReportHeader(string Number, string Part, string PartName, string Revision, string Piece, string Plan, string Inspector, DateTimeOffset Date, string NominalFile, string ScanFile, string Unit);

/// <summary>All that a report says. Every writer draws on this and nothing else.</summary>
public sealed record ReportModel(
    ReportHeader Header, InspectionPlan Plan, PreparationRecord Preparation, AlignmentResult Alignment, DeviationStatistics Statistics,
    IReadOnlyList<CharacteristicResult> Rows, IReadOnlyList<ReportFigure> Figures)
{
    public Verdict Verdict => InspectionResult.Overall(Rows.Select(r => r.Verdict));
}
